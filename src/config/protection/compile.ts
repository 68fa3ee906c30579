import { Fields } from "../../core/fields/fields.js";
import { isGzip } from "../../core/rules/codings.js";
import {
  DIRECTIVES,
  type Directive,
  isProtected,
  type PageNeeds,
  type Protection,
  type ProtectRules,
} from "../../core/rules/protect.js";
import type { FileMetadata, OpenedFile } from "../../core/source.js";
import { keyAt, type Origin } from "../../core/text/origin.js";
import { findContents, findNeeds, listTexts } from "../../reading/pages/needs.js";
import { readOnce } from "../../reading/pages/read-once.js";
import { unpack } from "../../reading/unpack.js";
import { innermost } from "../compiler.js";
import { parseDuration } from "../durations.js";

/** Protective fields, as they are written. */
interface Group {
  readonly policy?: "enforce" | "report-only" | "none" | undefined;
  readonly allow?: Readonly<Partial<Record<Directive, readonly string[] | undefined>>> | undefined;
  readonly report?: string | undefined;
  readonly framing?: keyof typeof FRAMING | readonly string[] | undefined;
  readonly referrer?: string | undefined;
  readonly permissions?: readonly string[] | undefined;
  readonly isolation?: boolean | undefined;
  readonly transportSecurity?:
    | string
    | number
    | { readonly maxAge: string | number; readonly includeSubDomains?: boolean | undefined }
    | undefined;
}

/** A longer document is not read for its policy, in bytes. */
const READ_UP_TO = 4 * 1024 * 1024;

/** MIME Sniffing Standard §4.6: a JavaScript type, as this library sends it. */
const SCRIPT = /^(?:text|application)\/javascript(?:;|$)/;

/** Features that a site of files rarely uses, and a script that was smuggled in might. */
const FEATURES = ["camera", "display-capture", "geolocation", "microphone", "payment", "usb"];

export const protectCompiler = innermost({
  default: false,
  compile: (given: boolean | Group, where): ProtectRules | undefined =>
    given === false ? undefined : compile(given === true ? {} : given, where),
});

const OTHER_CHARSET =
  "its bytes do not fit its charset, or browsers do not know that charset, so its policy may not allow its own scripts; write it in UTF-8";

const NOT_UNPACKED = "its compressed bytes are damaged or too many, so it is not read for its policy";

function compile(group: Group, where: Origin): ProtectRules {
  const {
    policy = "enforce",
    report,
    referrer = "strict-origin-when-cross-origin",
    isolation = false,
    permissions = [],
  } = group;
  const because = `${where.words}.protect`;
  const rule = keyAt(where, "protect");
  const denied = FEATURES.filter((name) => !permissions.includes(name)).map((name) => `${name}=()`);
  const line = (field: string, value: string) => [field, value, because, rule] as const;
  const reporting =
    report === undefined || policy === "none" ? [] : [line("Reporting-Endpoints", `policy="${report}"`)];
  const fixed = Fields.of(
    line("Referrer-Policy", referrer),
    ...(denied.length > 0 ? [line("Permissions-Policy", denied.join(", "))] : []),
    line("Cross-Origin-Opener-Policy", isolation ? "same-origin" : "same-origin-allow-popups"),
    ...(isolation ? [line("Cross-Origin-Embedder-Policy", "require-corp")] : []),
    ...reporting,
  );
  // HTML §7.1.4: a worker's script says itself that it keeps to what its page keeps to, or is not started.
  const embedder = Fields.of(line("Cross-Origin-Embedder-Policy", "require-corp"));
  const name = policy === "report-only" ? "Content-Security-Policy-Report-Only" : "Content-Security-Policy";
  const read = async (bytes: Uint8Array, contentType: string): Promise<Protection> => {
    if (policy === "none") return { fields: fixed, problems: [] };
    // A drawing that is compressed by itself is what a browser unpacks.
    const isPacked = contentType === "image/svg+xml" && isGzip(bytes);
    const plain = isPacked ? await unpack(bytes, READ_UP_TO) : bytes;
    const { page, isUnsure } = await readOnce(plain ?? new Uint8Array(0), contentType);
    const contents = findContents(page);
    const { sources, problems } = await findNeeds(contents);
    const value = formatPolicy(group, sources);
    const fields = Fields.of([name, value, `${because}, made from the page itself`, rule]).concat(fixed);
    if (plain === undefined) return { fields, problems: [NOT_UNPACKED, ...problems] };
    const isTold = isUnsure && listTexts(contents).some((one) => /[^\0-\x7f]/.test(one));
    return { fields, problems: isTold ? [OTHER_CHARSET, ...problems] : problems };
  };
  return {
    fixed,
    describe: describeOnce(read, (contentType) =>
      isolation && SCRIPT.test(contentType) ? embedder : Fields.NONE,
    ),
    read,
    transport: compileTransport(group.transportSecurity, line),
    summary: [
      `policy ${policy}`,
      ...(isolation ? ["isolation"] : []),
      ...(group.transportSecurity === undefined ? [] : ["transport security over TLS"]),
    ].join(", "),
  };
}

/** Reads a document once, however many ask for it while it is read. */
function describeOnce(
  read: ProtectRules["read"],
  fieldsOfOther: (contentType: string) => Fields,
): ProtectRules["describe"] {
  const underWay = new Map<FileMetadata, Promise<Protection>>();
  return (file, contentType) => {
    if (!isProtected(contentType))
      return Promise.resolve({ fields: fieldsOfOther(contentType), problems: [] });
    const { metadata } = file;
    const reading =
      underWay.get(metadata) ??
      readFile(file, (bytes) => read(bytes, contentType)).finally(() => underWay.delete(metadata));
    underWay.set(metadata, reading);
    return reading;
  };
}

async function readFile(
  file: OpenedFile,
  read: (bytes: Uint8Array) => Promise<Protection>,
): Promise<Protection> {
  const { sizeBytes } = file.metadata;
  if (sizeBytes <= READ_UP_TO) return read(await file.read(0, sizeBytes));
  const { fields } = await read(new Uint8Array(0));
  const megabytes = READ_UP_TO / 1024 / 1024;
  return { fields, problems: [`it is larger than ${megabytes} MiB, so it is not read for its policy`] };
}

function compileTransport(
  given: Group["transportSecurity"],
  line: (field: string, value: string) => readonly [string, string, string, string | undefined],
): Fields | undefined {
  if (given === undefined) return undefined;
  const { maxAge, includeSubDomains = false } = typeof given === "object" ? given : { maxAge: given };
  const value = `max-age=${parseDuration(maxAge)}${includeSubDomains ? "; includeSubDomains" : ""}`;
  return Fields.of(line("Strict-Transport-Security", value));
}

/** What every page may do: load from the site itself, and pictures and fonts that are in the text that names them. */
const BASE: Readonly<Partial<Record<Directive, readonly string[]>>> = {
  "default-src": ["'self'"],
  "img-src": ["'self'", "data:"],
  "font-src": ["'self'", "data:"],
  "object-src": ["'none'"],
  "base-uri": ["'self'"],
  "form-action": ["'self'"],
};

const FRAMING = { none: "'none'", "same-origin": "'self'", anywhere: "*" } as const;

function formatPolicy(
  { allow = {}, framing = "same-origin", report }: Group,
  sources: PageNeeds["sources"],
): string {
  const directives: string[] = [];
  for (const name of DIRECTIVES) {
    if (name === "frame-ancestors") {
      const who = typeof framing === "string" ? [FRAMING[framing]] : framing;
      directives.push(`${name} ${who.join(" ")}`);
      continue;
    }
    const given = allow[name] ?? [];
    const needed = sources.get(name) ?? [];
    const base = BASE[name] ?? (given.length + needed.length > 0 ? ["'self'"] : undefined);
    if (base === undefined) continue;
    const all = [...new Set([...base, ...needed, ...given])];
    // 'none' counts only where it is alone.
    directives.push(`${name} ${(all.length > 1 ? all.filter((one) => one !== "'none'") : all).join(" ")}`);
  }
  if (report !== undefined) directives.push("report-to policy", `report-uri ${report}`);
  return directives.join("; ");
}
