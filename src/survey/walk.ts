import { findFolderExposure } from "../config/exposures.js";
import { type JudgedName, walkFolders } from "../core/resolve/walk.js";
import type { Mount } from "../core/rules/mount.js";
import { isFingerprinted } from "../core/rules/names.js";
import { writeCommand } from "../core/text/command.js";
import { foldName } from "../core/text/fold-name.js";
import { joinPath } from "../core/text/path.js";
import { addressOf, type SurveyContext, type SurveyedFile, type SurveyedFolder } from "./survey-context.js";
import { reportUnreachable } from "./unreachable-names.js";

/**
 * Every folder of a mount that visitors can reach, with the files in it, each folder before what is in it. Of what cannot be reached or
 * named, the walk itself reports.
 */
export async function* walkSurveyed(context: SurveyContext, mount: Mount): AsyncGenerator<SurveyedFolder> {
  const { mounts } = context.compiled;
  const enters = ({ path }: JudgedName): boolean => !reportFolder(context, { mount, path });
  for await (const { path, names } of walkFolders(mount, { mounts, enters })) {
    if (names === undefined) {
      await reportUnreadable(context, { mount, path });
      continue;
    }
    reportCollisions(context, mount, path, names.filter(isOffered));
    const files: SurveyedFile[] = [];
    for (const one of names) {
      await report(context, mount, one);
      if (one.verdict === "offered" && one.kind === "file") files.push(await toSurveyed(mount, one));
    }
    const folders = names.filter((one) => one.verdict === "offered" && one.kind === "directory");
    yield { mount, path, files, folders: folders.map(({ name }) => name) };
    await context.pause();
  }
}

async function toSurveyed(mount: Mount, { path, metadata }: JudgedName): Promise<SurveyedFile> {
  const { sizeBytes, modifiedNs } = metadata!;
  const fingerprinted = await isFingerprinted(mount.names, mount.source, path);
  return { mount, path, sizeBytes, modifiedMs: Number(modifiedNs / 1_000_000n), fingerprinted };
}

const isOffered = ({ verdict }: JudgedName): boolean =>
  verdict !== "withheld" && verdict !== "elsewhere" && verdict !== "no address";

// What keeps a name from visitors that somebody may have meant them to have.
async function report(context: SurveyContext, mount: Mount, one: JudgedName): Promise<void> {
  const { path, verdict } = one;
  if (verdict === "leads nowhere") await reportLink(context, { mount, path });
  if (verdict === "unreadable") await reportUnreadable(context, { mount, path });
  if (verdict === "no address") await reportUnreachable(context, mount, one);
}

function reportCollisions(
  context: SurveyContext,
  mount: Mount,
  path: string,
  entries: readonly JudgedName[],
): void {
  const seen = new Map<string, string>();
  for (const { name } of entries) {
    const folded = foldName(name);
    const other = seen.get(folded);
    seen.set(folded, name);
    if (other === undefined) continue;
    context.report(
      "names-collide",
      { mount, path: joinPath(path, name) },
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
  context.toldLinks.add(addressOf(mount, path));
  const told = await mount.source.diagnose(path);
  context.report(
    isOut ? "link-leads-out" : "link-leads-nowhere",
    place,
    isOut
      ? `${told?.text ?? "It is a link"} outside the folder, so visitors get 404.`
      : `${told?.text ?? "It is a link whose target does not exist"}.`,
    isOut
      ? "Copy what it leads to into the folder, or serve that folder by a mount of its own."
      : "Point it to a file that exists, or remove it.",
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
      context.locate(place),
      (quoted) => `chmod a+rX ${quoted}`,
      "Give everybody the right to enter it.",
    ),
  );
}
