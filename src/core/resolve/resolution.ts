import type { Reason } from "../explain/reason.js";
import { formatSegment } from "../request/target.js";
import { resolveAppShell } from "./app-shell.js";
import { type Candidate, openCandidate, type Resolution, type ResolutionContext } from "./candidate.js";

/**
 * Decides what answers, in this order of precedence: the exact file, the name with an implied extension, the directory's
 * default document, its listing, the app shell. What is left is an error, or passed on. A file that is there but cannot be had ends the
 * search: nothing else may stand in for it.
 */
export async function resolve(context: ResolutionContext): Promise<Resolution> {
  if (context.target.emptySegment) return none(404, { code: "empty-segment" });
  const own = context.target.directoryForm ? await resolveDirectory(context) : await resolveName(context);
  if (own.kind !== "none" || !leavesRoom(own)) return own;
  return resolveAppShell(context, own);
}

/** True when nothing is there that an app shell or the application would hide. */
export function leavesRoom(resolution: { status: number; reason: Reason }): boolean {
  return resolution.status === 404 || resolution.reason.code === "no-default-document";
}

// The address of a file: no slash at its end.
async function resolveName(context: ResolutionContext): Promise<Resolution> {
  const { path, rules } = context;
  const exact = await openCandidate(context, path, "exact file");
  if (exact.kind === "file") return { kind: "file", path, file: exact.file, reason: { code: "exact-file" } };
  if (exact.kind === "error") return none(exact.status, exact.reason);

  if (path !== "") {
    for (const extension of rules.impliedExtensions) {
      if (path.endsWith(extension)) continue;
      const implied = await openCandidate(context, path + extension, "implied extension");
      if (implied.kind === "file") {
        const reason: Reason = { code: "implied-extension", subject: extension };
        return { kind: "file", path: path + extension, file: implied.file, reason };
      }
      if (implied.kind === "error") return none(implied.status, implied.reason);
    }
  }
  if (exact.kind !== "directory") return none(404, exact.reason);

  const document = await findDefaultDocument(context);
  if (document?.kind === "file") document.file.close();
  if (document === undefined && rules.listing === undefined) return none(403, noDefaultDocument(context));
  if (document?.kind === "error") return none(document.status, document.reason);
  return { kind: "redirect", location: formatDirectoryLocation(context), reason: { code: "missing-slash" } };
}

// The address of a directory: a slash at its end.
async function resolveDirectory(context: ResolutionContext): Promise<Resolution> {
  const document = await findDefaultDocument(context);
  if (document?.kind === "file") {
    return { kind: "file", path: document.path, file: document.file, reason: { code: "default-document" } };
  }
  if (document?.kind === "error") return none(document.status, document.reason);

  const directory = await openCandidate(context, context.path, "directory");
  switch (directory.kind) {
    case "directory":
      if (context.rules.listing !== undefined) {
        return { kind: "listing", path: context.path, rules: context.rules.listing };
      }
      return none(403, noDefaultDocument(context));
    case "file":
      directory.file.close();
      return none(404, { code: "slash-after-file" });
    case "error":
      return none(directory.status, directory.reason);
    case "absent":
      return none(404, directory.reason);
  }
}

async function findDefaultDocument(
  context: ResolutionContext,
): Promise<Extract<Candidate, { kind: "file" | "error" }> | undefined> {
  for (const name of context.rules.defaultDocuments) {
    const path = context.path === "" ? name : `${context.path}/${name}`;
    const candidate = await openCandidate(context, path, "default document");
    if (candidate.kind === "file" || candidate.kind === "error") return candidate;
  }
  return undefined;
}

function noDefaultDocument(context: ResolutionContext): Reason {
  const names = context.rules.defaultDocuments.join(", ");
  return { code: "no-default-document", subject: names === "" ? "none is configured" : names };
}

// RFC 3986 §4.2: a relative reference with a leading "./" can be read neither as a scheme nor as an authority, so it
// stays on the site, also under a prefix that a host or a proxy took off.
function formatDirectoryLocation({ target }: ResolutionContext): string {
  const name = target.path.slice(target.path.lastIndexOf("/") + 1);
  return `./${formatSegment(name)}/${target.query}`;
}

function none(status: 403 | 404 | 500 | 503, reason: Reason): Resolution {
  return { kind: "none", status, reason };
}
