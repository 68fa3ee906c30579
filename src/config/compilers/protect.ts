import { charsetOf } from "../../core/fields/content-type.js";
import { Fields } from "../../core/fields/fields.js";
import { DIRECTIVES, type Directive, type PageNeeds, type ProtectRules } from "../../core/rules/protect.js";
import { innermost } from "../compiler.js";
import { parseDuration } from "../durations.js";
import { readPageNeeds } from "../page-needs.js";

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

/** Features that a site of files rarely uses, and a script that was smuggled in might. */
const FEATURES = ["camera", "display-capture", "geolocation", "microphone", "payment", "usb"];

export const protectCompiler = innermost({
  default: false,
  compile: (given: boolean | Group, where): ProtectRules | undefined =>
    given === false ? undefined : compile(given === true ? {} : given, where),
});

function compile(group: Group, where: string): ProtectRules {
  const {
    policy = "enforce",
    report,
    referrer = "strict-origin-when-cross-origin",
    isolation = false,
    permissions = [],
  } = group;
  const because = `${where}.protect`;
  const denied = FEATURES.filter((name) => !permissions.includes(name)).map((name) => `${name}=()`);
  const reporting: [string, string, string][] =
    report === undefined || policy === "none" ? [] : [["Reporting-Endpoints", `policy="${report}"`, because]];
  const fixed = Fields.of(
    ["Referrer-Policy", referrer, because],
    ...(denied.length > 0 ? ([["Permissions-Policy", denied.join(", "), because]] as const) : []),
    ["Cross-Origin-Opener-Policy", isolation ? "same-origin" : "same-origin-allow-popups", because],
    ...(isolation ? ([["Cross-Origin-Embedder-Policy", "require-corp", because]] as const) : []),
    ...reporting,
  );
  const name = policy === "report-only" ? "Content-Security-Policy-Report-Only" : "Content-Security-Policy";
  return {
    fixed,
    async describe(bytes, contentType) {
      if (policy === "none") return { fields: fixed, problems: [] };
      const needs = await readPageNeeds(decode(bytes, charsetOf(contentType)), contentType.includes("xml"));
      const value = formatPolicy(group, needs);
      const fields = Fields.of([name, value, `${because}, made from the page itself`]).concat(fixed);
      return { fields, problems: needs.problems };
    },
    transport: compileTransport(group.transportSecurity, because),
    summary: [
      `policy ${policy}`,
      ...(isolation ? ["isolation"] : []),
      ...(group.transportSecurity === undefined ? [] : ["transport security over TLS"]),
    ].join(", "),
  };
}

// The Encoding Standard §6: a byte order mark goes before what the field says.
function decode(bytes: Uint8Array, charset = "utf-8"): string {
  const isBigEndian = bytes[0] === 0xfe && bytes[1] === 0xff;
  try {
    return new TextDecoder(isBigEndian ? "utf-16be" : charset).decode(bytes);
  } catch {
    return new TextDecoder().decode(bytes);
  }
}

function compileTransport(given: Group["transportSecurity"], because: string): Fields | undefined {
  if (given === undefined) return undefined;
  const { maxAge, includeSubDomains = false } = typeof given === "object" ? given : { maxAge: given };
  const value = `max-age=${parseDuration(maxAge)}${includeSubDomains ? "; includeSubDomains" : ""}`;
  return Fields.of(["Strict-Transport-Security", value, because]);
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
  { sources }: PageNeeds,
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
