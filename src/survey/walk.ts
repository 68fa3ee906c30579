import { findFolderExposure } from "../config/exposures.js";
import { isAddressable } from "../core/request/target.js";
import { below, readInPlace } from "../core/resolve/read-directory.js";
import { type Mount, withheldIn } from "../core/rules/mount.js";
import type { EntryMetadata, SourceEntry } from "../core/source.js";
import { writeCommand } from "../core/text/command.js";
import { foldName } from "../core/text/fold-name.js";
import type { SurveyContext, SurveyedFile, SurveyedFolder } from "./survey-context.js";

/**
 * Every folder of a mount that visitors can reach, with the files in it, each folder before what is in it. What is withheld or
 * another mount's is left out. Of what cannot be reached or named, the walk itself reports.
 */
export async function* walkFolders(context: SurveyContext, mount: Mount): AsyncGenerator<SurveyedFolder> {
  const visited = new Set<string>();
  const waiting = [""];
  for (let path = waiting.pop(); path !== undefined; path = waiting.pop()) {
    const folder = await readFolder(context, mount, path, visited);
    if (folder === undefined) continue;
    yield folder;
    waiting.push(...[...folder.folders].reverse().map((name) => below(path, name)));
    await context.pause();
  }
}

async function readFolder(
  context: SurveyContext,
  mount: Mount,
  path: string,
  visited: Set<string>,
): Promise<SurveyedFolder | undefined> {
  const folder = await readInPlace(mount, path, async (directory, real) => {
    const entries = await directory.list();
    if ("kind" in entries) return undefined;
    const files: SurveyedFile[] = [];
    const folders: string[] = [];
    const names = entries.filter(({ name }) => isOffered(context, mount, { path, real, name }));
    reportCollisions(context, mount, path, names);
    for (const { name, kind } of names.sort((a, b) => (a.name < b.name ? -1 : 1))) {
      const place = { mount, path: below(path, name) };
      if (kind === "special") continue;
      const metadata = kind === "directory" ? DIRECTORY : await directory.stat(name);
      if (metadata?.realPath !== undefined && withheldIn(mount, metadata.realPath) !== undefined) continue;
      if (metadata === undefined) await reportLink(context, place);
      else if (metadata.kind === "file") files.push({ ...place, ...sizeAndTime(metadata) });
      else if (metadata.kind === "directory" && isNew(metadata, visited) && !reportFolder(context, place))
        folders.push(name);
      else if (metadata.kind === "unreadable") await reportUnreadable(context, place);
    }
    return { mount, path, files, folders };
  });
  if (folder === undefined) await reportUnreadable(context, { mount, path });
  return folder;
}

const DIRECTORY: EntryMetadata = { kind: "directory", sizeBytes: 0, modifiedNs: 0n };

function sizeAndTime({ sizeBytes, modifiedNs }: EntryMetadata): { sizeBytes: number; modifiedMs: number } {
  return { sizeBytes, modifiedMs: Number(modifiedNs / 1_000_000n) };
}

// A link to a folder above would be walked for ever.
function isNew({ realPath }: EntryMetadata, visited: Set<string>): boolean {
  if (realPath === undefined) return true;
  if (visited.has(realPath)) return false;
  visited.add(realPath);
  return true;
}

interface Name {
  readonly path: string;
  readonly real: string;
  readonly name: string;
}

// A name that visitors may ask for; one that no address leads to is reported.
function isOffered(context: SurveyContext, mount: Mount, { path, real, name }: Name): boolean {
  const full = below(path, name);
  if (withheldIn(mount, full) !== undefined || withheldIn(mount, below(real, name)) !== undefined)
    return false;
  if (context.compiled.mounts.find([mount.at, full].filter(Boolean).join("/"))?.value !== mount) return false;
  if (isAddressable(name) && !name.includes("\ufffd")) return true;
  context.report(
    "name-without-address",
    { mount, path: full },
    "Its name has a character that is not allowed in addresses, or is not UTF-8, so nobody can ask for it.",
    writeCommand(
      name,
      (quoted) => `mv -- ${quoted} ${name.replace(/[^\w.-]+/g, "-").replace(/^-/, "_")}`,
      "Rename it with letters, digits, dots and hyphens.",
    ),
  );
  return false;
}

function reportCollisions(
  context: SurveyContext,
  mount: Mount,
  path: string,
  entries: readonly SourceEntry[],
): void {
  const seen = new Map<string, string>();
  for (const { name } of entries) {
    const folded = foldName(name);
    const other = seen.get(folded);
    seen.set(folded, name);
    if (other === undefined) continue;
    context.report(
      "names-collide",
      { mount, path: below(path, name) },
      `On systems that ignore case or the form of accents, it is the same name as ${other}: a copy there loses one of the two.`,
      "Give one of the two another name.",
    );
  }
}

/** True when a folder is one that should not be reachable: reported once, and not looked into. */
function reportFolder(context: SurveyContext, place: { mount: Mount; path: string }): boolean {
  const exposure = findFolderExposure(place.path);
  if (exposure === undefined) return false;
  context.report(exposure.code, place, exposure.reason, withholdLine(`${place.path}/`));
  return true;
}

/** The line of configuration that keeps something from visitors. */
export function withholdLine(...patterns: readonly string[]): string {
  return `withheld: [${patterns.map((one) => JSON.stringify(one)).join(", ")}]`;
}

async function reportLink(context: SurveyContext, place: { mount: Mount; path: string }): Promise<void> {
  const { mount, path } = place;
  const found = await mount.source.open(path);
  if (found.kind === "file") found.file.close();
  if (found.kind === "directory") found.directory.close();
  if (found.kind !== "missing") return;
  // A link that the configuration does not follow is left alone on purpose.
  if (found.because === "link-not-followed") return;
  const isOut = found.because === "link-leads-outside";
  const told = await mount.source.diagnose(path);
  context.report(
    isOut ? "link-leads-out" : "link-leads-nowhere",
    place,
    isOut
      ? `${told?.text ?? "It is a link"} outside the folder, so visitors get 404.`
      : `${told?.text ?? "It is a link whose target does not exist"}.`,
    isOut ? "links: anywhere" : writeCommand(path, (quoted) => `rm -- ${quoted}`, "Remove the link."),
  );
}

async function reportUnreadable(
  context: SurveyContext,
  place: { mount: Mount; path: string },
): Promise<void> {
  const told = await place.mount.source.diagnose(place.path);
  context.report(
    "not-readable",
    place,
    `${told?.text ?? "This process may not read it"}: visitors get 403.`,
    writeCommand(
      place.path === "" ? place.mount.source.name : place.path,
      (quoted) => `chmod a+rX ${quoted}`,
      "Give everybody the right to enter it.",
    ),
  );
}
