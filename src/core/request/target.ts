import { fail, type Result, succeed } from "../text/result.js";

/** A request target, understood: where in the site it points. */
export interface Target {
  /** Decoded path without leading or trailing slash; `""` is the root. */
  readonly path: string;
  /** The path ends with a slash: it is the address of a directory. */
  readonly directoryForm: boolean;
  /** The path has an empty segment (`/a//b`), which no file name matches. */
  readonly emptySegment: boolean;
  /** The query with its question mark, as received; `""` when there is none. */
  readonly query: string;
}

export type TargetProblem =
  | { code: "not-a-path"; found: string }
  | { code: "bad-escape"; found: string }
  | { code: "control-character"; found: string }
  | { code: "encoded-slash"; found: string }
  | { code: "backslash"; found: string }
  | { code: "dot-segment"; found: string };

const ABSOLUTE_FORM = /^https?:\/\/[^/?#]*/i;

/**
 * Reads a request target in origin form or absolute form (RFC 9112 §3.2.1, §3.2.2). The path is percent-decoded once,
 * as UTF-8 (RFC 3986 §2.1, URL Standard). What a path cannot mean safely is a problem, never a guess.
 */
export function parseTarget(target: string): Result<Target, TargetProblem> {
  const rest = target.startsWith("/") ? target : target.replace(ABSOLUTE_FORM, "");
  if (rest !== target && (rest === "" || rest.startsWith("?"))) return parseOriginForm(`/${rest}`);
  return parseOriginForm(rest);
}

function parseOriginForm(target: string): Result<Target, TargetProblem> {
  if (target.charCodeAt(0) !== 0x2f) return fail({ code: "not-a-path", found: target });
  const queryAt = target.indexOf("?");
  const rawPath = queryAt < 0 ? target : target.slice(0, queryAt);
  if (rawPath.includes("#")) return fail({ code: "not-a-path", found: target });

  const decoded = rawPath.includes("%") ? decodePath(rawPath) : succeed(rawPath);
  if (!decoded.ok) return decoded;
  const path = decoded.value;
  if (path.includes("\0")) return fail({ code: "control-character", found: rawPath });
  if (path.includes("\\")) return fail({ code: "backslash", found: rawPath });
  if (path.includes("/.") && hasDotSegment(path)) return fail({ code: "dot-segment", found: rawPath });

  const directoryForm = path.endsWith("/");
  return succeed({
    path: path.length === 1 ? "" : path.slice(1, directoryForm ? -1 : undefined),
    directoryForm,
    emptySegment: path.includes("//"),
    query: queryAt < 0 ? "" : target.slice(queryAt),
  });
}

function decodePath(rawPath: string): Result<string, TargetProblem> {
  if (/%2f/i.test(rawPath)) return fail({ code: "encoded-slash", found: rawPath });
  try {
    return succeed(decodeURIComponent(rawPath));
  } catch {
    return fail({ code: "bad-escape", found: rawPath });
  }
}

function hasDotSegment(path: string): boolean {
  return /\/\.{1,2}(?:\/|$)/.test(path);
}

/** The path under a prefix that a host stripped; undefined when it does not lie under it. */
export function stripPrefix(path: string, prefix: string | undefined): string | undefined {
  if (prefix === undefined || prefix === "" || prefix === "/") return path;
  const decoded = parseTarget(prefix);
  if (!decoded.ok) return undefined;
  const start = decoded.value.path;
  if (path === start) return "";
  return path.startsWith(`${start}/`) ? path.slice(start.length + 1) : undefined;
}

// RFC 3986 §3.3: pchar may stand as it is; everything else in a file name is escaped.
const NOT_PCHAR = /[^A-Za-z0-9\-._~!$&'()*+,;=:@]+/g;

/** Writes one path segment so that a URL parser reads it back as the same name (RFC 3986 §2.1, §3.3). */
export function formatSegment(name: string): string {
  return name.replace(NOT_PCHAR, (run) => encodeURIComponent(run.toWellFormed()));
}

/** Writes a query as it was received, but for what no field may hold: that is escaped (RFC 3986 §3.4, RFC 9110 §5.5). */
export function formatQuery(query: string): string {
  return query.replace(/[^\x21-\x7e]/gu, (c) =>
    // A character up to this one came as one byte.
    c <= "\xff"
      ? `%${c.charCodeAt(0).toString(16).toUpperCase().padStart(2, "0")}`
      : encodeURIComponent(c.toWellFormed()),
  );
}

/** Writes a decoded path (segments joined by slashes) as a URL path. */
export function formatPath(path: string): string {
  return path.split("/").map(formatSegment).join("/");
}

/**
 * True for a name that an address can lead to. A backslash, a NUL, a lone surrogate, or the replacement character that stands for
 * what is not UTF-8, is in no address that is answered.
 */
export function isAddressable(name: string): boolean {
  return !/[\\\0\ufffd]/.test(name) && name.isWellFormed();
}
