import type { Reason, ShellRefusal } from "../core/explain/reason.js";
import type { Trace } from "../core/explain/trace.js";
import { decideMediaType } from "../core/media-types/media-type.js";
import { formatPath, parseTarget } from "../core/request/target.js";
import { lookAt } from "../core/resolve/look.js";
import { readNames } from "../core/resolve/read-directory.js";
import { type Mount, selectRules, withheldIn } from "../core/rules/mount.js";
import type { CompiledSite } from "../core/site.js";
import type { Diagnosis } from "../core/source.js";
import { writeCommand } from "../core/text/command.js";
import { foldName } from "../core/text/fold-name.js";
import { joinPath, sitePath } from "../core/text/path.js";
import { suggestName } from "../core/text/suggest.js";

/** What a refusal is about: the answer's reason, and the path inside the mount where there is one. */
interface Refusal {
  readonly reason: Reason;
  readonly mount: Mount;
  readonly path: string;
}

/**
 * The most likely causes of an answer that is an error, each with what to do about it, the most likely first. For the developer:
 * they name what is on disk.
 */
export async function findHints(site: CompiledSite, reason: Reason, trace: Trace): Promise<string[]> {
  const step = trace.find((one) => one.stage === "mount");
  if (step?.stage !== "mount" || step.at === undefined) return hintWithoutMount(site, reason);
  const mount = site.mounts.values().find(({ at }) => `/${at}` === step.at)!;
  const refusal: Refusal = { reason, mount, path: step.path };
  const shell = reason.shellRefused === undefined ? [] : hintShell(reason.shellRefused, refusal);
  const hints = [...shell, ...hintByReason(refusal, trace)];
  if (reason.code === "no-default-document") hints.push(...(await hintDirectory(refusal)));
  if (reason.code === "no-such-file" || reason.code === "not-a-directory")
    hints.push(...(await hintMissing(site, refusal)));
  if (reason.code === "slash-after-file") hints.push(`Leave the slash out: ${address(mount, refusal.path)}.`);
  return hints;
}

function hintWithoutMount(site: CompiledSite, { code, subject }: Reason): string[] {
  switch (code) {
    case "outside-every-mount":
      return [
        `The mounts are at ${site.mounts
          .values()
          .map(({ at }) => `/${at}`)
          .join(", ")}; ask for a path under one of them, or add a mount at "/".`,
      ];
    case "outside-stripped-prefix":
      return [
        `The host says that it stripped ${subject}; if it changes the path in another way, it must not change originalUrl.`,
      ];
    case "not-a-path":
      return ["A request target is a path: start it with a slash."];
    case "encoded-slash":
      return [
        "A file name cannot contain a slash. If it is part of an application's route, put the site behind that route.",
      ];
    case "bad-escape":
      return ["Percent escapes must be UTF-8; write %25 for a percent sign."];
    case "dot-segment":
      return ["Clients resolve dot segments before they send a request; write the path without them."];
    case "backslash":
      return ["Write slashes between folders; a file name here cannot contain a backslash."];
    default:
      return [];
  }
}

function hintByReason({ reason, path }: Refusal, trace: Trace): string[] {
  const refused = trace.findLast((one) => one.stage === "candidate" && one.found === "error");
  switch (reason.code) {
    case "withheld":
      return reason.isDotName
        ? [
            "Names with a leading dot are never served; if the file is for visitors, give it a name without the dot.",
          ]
        : ["If the file is for visitors, remove the pattern, or make it narrower."];
    case "no-permission":
      return [explainPermission(refused?.stage === "candidate" ? refused.diagnosis : undefined, path)];
    case "link-leads-outside":
      return [
        "Copy the file into the folder, or serve its folder with another mount; links: anywhere follows every link.",
      ];
    case "link-not-followed":
      return ["Write links: inside to follow links that stay in the folder."];
    case "name-differs":
      return ["Write the name as it is on disk; on other machines the two names are different."];
    case "empty-segment":
      return [
        "Write one slash between folders; the link was probably made from two parts that both had one.",
      ];
    case "not-sealed":
      return [
        "Put the file back as it was, or seal the folder again: epistyle seal, or a new start with --seal.",
      ];
    case "special":
      return ["Only regular files are served."];
    default:
      return [];
  }
}

function explainPermission(diagnosis: Diagnosis | undefined, path: string): string {
  const { denied } = diagnosis ?? {};
  const change = denied?.right === "execute" ? "a+x" : "a+r";
  const state = diagnosis === undefined ? "" : `${diagnosis.text}. `;
  const how = writeCommand(
    denied === undefined ? path : denied.path || ".",
    (quoted) => `In the mount's folder, chmod ${change} ${quoted} gives every user access`,
    "Give every user access",
  );
  return `${state}${how}; or run the server as a user who may.`;
}

function hintShell({ code }: ShellRefusal, { mount, path }: Refusal): string[] {
  const { appShell, mediaTypes } = selectRules(mount, path);
  // What is known as a file's extension is one.
  if (code === "extension" && appShell !== undefined && decideMediaType(path, mediaTypes) === undefined) {
    const folder = path.slice(0, path.lastIndexOf("/") + 1);
    const route = JSON.stringify(folder === "" ? `/${path}` : `/${folder}*`);
    return [
      `If this is a route of the application, say so: appShell: { file: ${JSON.stringify(`/${appShell.file}`)}, routes: [${route}] }.`,
    ];
  }
  if (code === "not-a-navigation") {
    return [
      "A browser that opens a page sends Sec-Fetch-Mode: navigate; ask with that field to see its answer.",
    ];
  }
  return code === "missing" ? ["Build the application, or name its document in appShell."] : [];
}

const BUILT_FOLDERS = ["dist", "build", "out", "public", "www", "_site"];
const MANIFESTS = [
  "package.json",
  "tsconfig.json",
  "deno.json",
  "Cargo.toml",
  "pyproject.toml",
  "Gemfile",
  "composer.json",
];

// A directory that shows nothing: its front page has another name, or it is a project and not what was built from it.
async function hintDirectory({ mount, path }: Refusal): Promise<string[]> {
  const names = (await readNames(mount, path)) ?? [];
  const below = (name: string): string => joinPath(path, name);
  const manifest = MANIFESTS.find((name) => names.includes(name));
  const built = manifest === undefined ? undefined : await findBuilt(mount, names, below);
  if (built !== undefined)
    return [
      `This is a project (it has ${manifest}), not its build; ${built} looks built: serve that folder.`,
    ];
  const pages = names.filter((name) => /\.x?html?$/i.test(name)).sort();
  if (pages.length > 0) {
    const likely =
      pages.find((name) => /^(home|default|main|start|welcome|index)\b/i.test(name)) ?? pages[0]!;
    const rename = likely === "index.html" ? "" : " rename the file to index.html,";
    return [
      `The directory has ${likely}: write defaultDocuments: [${likely}] for it,${rename} or ask for ${address(mount, below(likely))}.`,
    ];
  }
  if (manifest !== undefined)
    return [
      `This is a project (it has ${manifest}) that was not built; run its build, and serve the output folder.`,
    ];
  if (names.length === 0) return ["The directory is empty."];
  return [
    "Write listing: true for the mount or an area to list its files, put a document named index.html into it, or ask for a file by name.",
  ];
}

async function findBuilt(
  mount: Mount,
  names: readonly string[],
  below: (name: string) => string,
): Promise<string | undefined> {
  for (const folder of BUILT_FOLDERS.filter((name) => names.includes(name))) {
    if (((await readNames(mount, below(folder))) ?? []).includes("index.html")) return below(folder);
  }
  return undefined;
}

// A name that is not there: nearly the same name, another extension, another mount, or the folder's own name in front.
async function hintMissing(site: CompiledSite, { mount, path }: Refusal): Promise<string[]> {
  const hints: string[] = [];
  const { parent, segment, rest } = await findGap(mount, path);
  const names = (await readNames(mount, parent)) ?? [];
  const beside = (name: string): string => address(mount, joinPath(joinPath(parent, name), rest));

  if (names.includes(segment)) return [await hintThere(mount, joinPath(parent, segment))];
  const sameFolded = names.find((name) => foldName(name) === foldName(segment));
  const extended =
    names.find((name) => name.startsWith(`${segment}.`) && rest === "") ??
    names.find((name) => foldName(name).startsWith(`${foldName(segment)}.`) && rest === "");
  if (sameFolded !== undefined) {
    const isFolder = (await readNames(mount, joinPath(parent, sameFolded))) !== undefined;
    const slash = rest === "" && isFolder ? "/" : "";
    hints.push(`The name on disk is ${sameFolded}, and case matters: ask for ${beside(sameFolded)}${slash}.`);
  } else if (extended !== undefined && !extended.startsWith(segment)) {
    hints.push(
      `There is ${extended}, and case matters: ask for ${beside(shortenName(mount, path, extended))}.`,
    );
  } else if (extended !== undefined) {
    const extension = extended.slice(segment.length);
    hints.push(
      `There is ${extended}: ask for ${beside(extended)}, or add "${extension}" to impliedExtensions.`,
    );
  }
  hints.push(...(await findElsewhere(site, mount, path)));
  const near =
    hints.length > 0
      ? undefined
      : suggestName(
          segment,
          names.filter((name) => !name.startsWith(".")),
        );
  if (near !== undefined) hints.push(`There is ${near} in the same directory: did you mean ${beside(near)}?`);
  return hints.length > 0 ? hints : [describeNames(parent, segment, names)];
}

// It is there, and was not found: a link that leads nowhere.
async function hintThere(mount: Mount, path: string): Promise<string> {
  const diagnosis = await mount.source.diagnose(path);
  return diagnosis === undefined
    ? `${path} exists now; it did not a moment ago. Ask again.`
    : `${diagnosis.text}. Let the link lead to an existing file, or make that file.`;
}

// The shorter address, where the extension is implied.
function shortenName(mount: Mount, path: string, name: string): string {
  const { impliedExtensions } = selectRules(mount, path);
  const extension = impliedExtensions.find((one) => name.endsWith(one));
  return extension === undefined ? name : name.slice(0, -extension.length);
}

function describeNames(parent: string, segment: string, names: readonly string[]): string {
  const where = parent === "" ? "the mount's folder" : parent;
  const shown = names.filter((name) => !name.startsWith(".")).sort();
  if (shown.length === 0) return `There is no ${segment} in ${where}, which is empty.`;
  const more = shown.length > 6 ? ` and ${shown.length - 5} more` : "";
  return `There is no ${segment} in ${where}, which has ${shown.slice(0, more === "" ? 6 : 5).join(", ")}${more}.`;
}

/** The first segment of a path that is not there, and what lies before and behind it. */
async function findGap(
  mount: Mount,
  path: string,
): Promise<{ parent: string; segment: string; rest: string }> {
  const segments = path.split("/");
  for (let depth = 0; depth < segments.length; depth++) {
    const parent = segments.slice(0, depth).join("/");
    const names = await readNames(mount, parent);
    if (names !== undefined && !names.includes(segments[depth]!)) {
      return { parent, segment: segments[depth]!, rest: segments.slice(depth + 1).join("/") };
    }
  }
  return { parent: segments.slice(0, -1).join("/"), segment: segments.at(-1)!, rest: "" };
}

async function findElsewhere(site: CompiledSite, mount: Mount, path: string): Promise<string[]> {
  const hints: string[] = [];
  const full = sitePath(mount, path);
  const [first, ...others] = path.split("/");
  const inside = others.join("/");
  if (inside !== "" && mount.source.name.split(/[/\\]/).at(-1) === first && (await isFile(mount, inside))) {
    hints.push(`The folder's own name is not part of an address: ask for ${address(mount, inside)}.`);
  }
  for (const other of site.mounts.values()) {
    if (other === mount) continue;
    if (await isFile(other, path))
      hints.push(`The mount at /${other.at} has it: ask for ${address(other, path)}.`);
    const outer =
      other.at === "" ? full : full.startsWith(`${other.at}/`) ? full.slice(other.at.length + 1) : undefined;
    if (outer !== undefined && other.at.length < mount.at.length && (await isFile(other, outer))) {
      hints.push(
        `${other.source.name} has ${outer}, but the mount at /${mount.at} hides it: move the file, or the mount.`,
      );
    }
  }
  return hints;
}

async function isFile(mount: Mount, path: string): Promise<boolean> {
  if (withheldIn(mount, path) !== undefined || !parseTarget(`/${formatPath(path)}`).ok) return false;
  return (await lookAt(mount.source, path)) === "file";
}

function address(mount: Mount, path: string): string {
  return `/${formatPath(sitePath(mount, path))}`;
}
