import type { Reason } from "../explain/reason.js";
import type { RequestHeaders } from "../request/request.js";
import { formatQuery, formatSegment, type Target } from "../request/target.js";
import { formatNewAddress, type MovedAddresses } from "../rules/moved.js";
import type { Place } from "../rules/place.js";
import type { Rules } from "../rules/rules.js";
import { joinPath } from "../text/path.js";
import { resolveAppShell } from "./app-shell.js";
import type { Candidate, OpenFiles } from "./open-files.js";
import type { Resolution } from "./resolution.js";
import { findShortAddress } from "./short-address.js";

/**
 * Decides what answers, in this order of precedence: the exact file, the name with an implied extension, the directory's
 * default document, its listing, the rules for addresses that moved or are gone, the app shell. What is left is an error, or passed on. A file that is there but cannot be read
 * ends the search: nothing else may take its place.
 */
export async function resolve(
  files: OpenFiles,
  place: Place,
  headers: RequestHeaders,
  moved: MovedAddresses,
): Promise<Resolution> {
  const { target, path, mount } = place;
  if (target.emptySegment) return none(404, { code: "empty-segment" });
  const own = isTooLong(path)
    ? none(404, { code: "too-long" })
    : target.directoryForm
      ? await resolveDirectory(files, place)
      : await resolveName(files, place);
  if (own.kind !== "none" || !leavesRoom(own)) return own;
  const full = mount.at === "" ? path : path === "" ? mount.at : `${mount.at}/${path}`;
  return resolveMoved(moved, full, target) ?? resolveAppShell(files, place, headers, own);
}

/** What the rules for addresses that moved or are gone make of a path of the site. */
export function resolveMoved(
  moved: MovedAddresses,
  path: string,
  target: Target,
): Extract<Resolution, { kind: "redirect" | "none" }> | undefined {
  if (moved.rules.length === 0) return undefined;
  const found = moved.find(path, target.directoryForm);
  if (found === undefined) return undefined;
  const { rule, below } = found;
  if (rule.to === undefined) return none(410, { code: "gone", subject: rule.label, rule: rule.label });
  const location = formatNewAddress(rule, below, { path, target });
  return {
    kind: "redirect",
    location,
    reason: { code: "moved", subject: rule.label, rule: rule.label },
    temporary: rule.temporary,
  };
}

/** True when nothing is there that an app shell or the application would hide. */
export function leavesRoom(resolution: { status: number; reason: Reason }): boolean {
  return resolution.status === 404 || resolution.reason.code === "no-default-document";
}

/** The longest path and name that a file system takes, in bytes; a UTF-16 code unit is a byte at least. */
const LONGEST = { path: 4096, name: 255 };

// What no file can be called is compared with no pattern, and asked of no disk.
function isTooLong(path: string): boolean {
  if (path.length <= LONGEST.name) return false;
  if (path.length > LONGEST.path) return true;
  let start = 0;
  for (let end = path.indexOf("/"); end >= 0; end = path.indexOf("/", start)) {
    if (end - start > LONGEST.name) return true;
    start = end + 1;
  }
  return path.length - start > LONGEST.name;
}

// The address of a file: no slash at its end.
async function resolveName(files: OpenFiles, place: Place): Promise<Resolution> {
  const { path, rules, target } = place;
  const exact = await files.open(path, "exact file");
  if (exact.kind === "file") {
    const short = rules.longAddresses === "redirect" ? await findShortAddress(files, place) : undefined;
    return short === undefined
      ? { kind: "file", path, file: exact.file, reason: { code: "exact-file" } }
      : { kind: "redirect", location: short, reason: { code: "long-address" } };
  }
  if (exact.kind === "error") return none(exact.status, exact.reason);

  if (path !== "") {
    for (const extension of rules.impliedExtensions) {
      if (path.endsWith(extension)) continue;
      const implied = await files.open(path + extension, "implied extension");
      if (implied.kind === "file") {
        const reason: Reason = { code: "implied-extension", subject: extension };
        return { kind: "file", path: path + extension, file: implied.file, reason };
      }
      if (implied.kind === "error") return none(implied.status, implied.reason);
    }
  }
  if (exact.kind !== "directory") return (await findEarlier(files, path)) ?? none(404, exact.reason);

  const document = await findDefaultDocument(files, place);
  if (document === undefined && rules.listing === undefined) return none(403, noDefaultDocument(rules));
  if (document?.kind === "error") return none(document.status, document.reason);
  return { kind: "redirect", location: formatDirectoryLocation(target), reason: { code: "missing-slash" } };
}

// A page that was loaded before the release was exchanged asks for the files that belong to it.
async function findEarlier(files: OpenFiles, path: string): Promise<Resolution | undefined> {
  if (files.mount.earlier === undefined) return undefined;
  const found = await files.openEarlier(path);
  if (found === undefined) return undefined;
  return {
    kind: "file",
    path,
    file: found.file,
    reason: { code: "earlier-release", subject: found.release },
  };
}

// The address of a directory: a slash at its end.
async function resolveDirectory(files: OpenFiles, place: Place): Promise<Resolution> {
  const { path, rules } = place;
  const document = await findDefaultDocument(files, place);
  if (document?.kind === "file") {
    return { kind: "file", path: document.path, file: document.file, reason: { code: "default-document" } };
  }
  if (document?.kind === "error") return none(document.status, document.reason);

  const directory = await files.open(path, "directory");
  switch (directory.kind) {
    case "directory":
      if (rules.listing !== undefined) return { kind: "listing", found: directory, rules: rules.listing };
      return none(403, noDefaultDocument(rules));
    case "file":
      return none(404, { code: "slash-after-file" });
    case "error":
      return none(directory.status, directory.reason);
    case "absent":
      return none(404, directory.reason);
  }
}

async function findDefaultDocument(
  files: OpenFiles,
  { path, rules }: Place,
): Promise<Extract<Candidate, { kind: "file" | "error" }> | undefined> {
  for (const name of rules.defaultDocuments) {
    const candidate = await files.open(joinPath(path, name), "default document");
    if (candidate.kind === "file" || candidate.kind === "error") return candidate;
  }
  return undefined;
}

function noDefaultDocument({ defaultDocuments }: Rules): Reason {
  const names = defaultDocuments.join(", ");
  return { code: "no-default-document", subject: names === "" ? "none is configured" : names };
}

// RFC 3986 §4.2: a relative reference with a leading "./" can be read neither as a scheme nor as an authority, so it
// stays on the site, also under a prefix that a host or a proxy stripped.
function formatDirectoryLocation({ path, query }: Target): string {
  return `./${formatSegment(path.slice(path.lastIndexOf("/") + 1))}/${formatQuery(query)}`;
}

function none(status: 403 | 404 | 410 | 500 | 503, reason: Reason): Extract<Resolution, { kind: "none" }> {
  return { kind: "none", status, reason };
}
