import * as z from "zod";
import { charsetOf } from "../../core/fields/content-type.js";
import { Fields } from "../../core/fields/fields.js";
import { DIRECTIVES, type Directive, type PageNeeds, type ProtectRules } from "../../core/rules/protect.js";
import { parseDuration } from "../durations.js";
import { readPageNeeds } from "../page-needs.js";
import { innermost } from "../rule.js";
import { duration, reject } from "../values.js";

/** A source of a policy (CSP3 §2.3.1): a host, a scheme, or a word in quotes. */
const source = z.string().check((payload) => {
  const { value } = payload;
  if (
    /^[^'"\s;,]+$/.test(value) &&
    !/^(?:self|none|unsafe-\w+|strict-dynamic|nonce-.*|sha\d+-.*)$/.test(value)
  )
    return;
  if (
    /^'(?:self|none|unsafe-inline|unsafe-eval|wasm-unsafe-eval|strict-dynamic|unsafe-hashes|report-sample|sha(?:256|384|512)-[\w+/=-]+)'$/.test(
      value,
    )
  )
    return;
  const word = value.replace(/'/g, "");
  reject(
    payload,
    /^[\w-]+$/.test(word) && /^(?:self|none|unsafe|strict|wasm|sha)/.test(word)
      ? `a word of a policy stands in quotes of its own: write "'${word}'"`
      : 'a source is one host, one scheme or one word: write it as "https://maps.larkholm.example", "blob:" or "\'self\'"',
  );
});

/** A source that adds to others: 'none' counts only where it is alone. */
const added = source.check((payload) => {
  if (payload.value === "'none'")
    reject(payload, "'none' adds nothing: leave it out, or take away what the page names");
});

/** Who may frame it is said by `framing`. */
const ALLOWED = DIRECTIVES.filter((name) => name !== "frame-ancestors");

const allow = z
  .partialRecord(z.enum(ALLOWED), z.array(added).min(1))
  .describe(
    "What documents may load besides what the site has and what they name, by the directives of the policy: { connect-src: [https://api.larkholm.example] }.",
  );

const feature = z.string().check((payload) => {
  if (!/^[a-z]+(?:-[a-z]+)*$/.test(payload.value))
    reject(payload, 'a feature is a name of the Permissions Policy: write it as "geolocation"');
});

const address = z.string().check((payload) => {
  if (!/^(?:\/|https:\/\/)[\x21\x23-\x7e]*$/.test(payload.value))
    reject(payload, 'reports go to an address: write it as "/policy-reports" or "https://…"');
});

const group = z.strictObject({
  policy: z
    .enum(["enforce", "report-only", "none"])
    .optional()
    .describe(
      "Whether what the policy forbids is stopped (enforce, the default), only reported, or there is no policy.",
    ),
  allow: allow.optional(),
  report: address.optional().describe("Where browsers report what the policy forbids."),
  framing: z
    .union([z.enum(["none", "same-origin", "anywhere"]), z.array(added).min(1)])
    .optional()
    .describe(
      "Who may show a document in a frame (default same-origin): nobody, the site, anybody, or these.",
    ),
  referrer: z
    .enum(["no-referrer", "same-origin", "strict-origin", "strict-origin-when-cross-origin"])
    .optional()
    .describe(
      "What other sites learn of where a visitor comes from (default strict-origin-when-cross-origin).",
    ),
  permissions: z
    .array(feature)
    .optional()
    .describe(
      "Features that documents may use, such as geolocation; camera, microphone and the like are off otherwise.",
    ),
  isolation: z
    .boolean()
    .optional()
    .describe(
      "Cross-origin isolation (COOP and COEP), for precise timers and shared memory (default false).",
    ),
  transportSecurity: z
    .union([duration, z.strictObject({ maxAge: duration, includeSubDomains: z.boolean().optional() })])
    .optional()
    .describe(
      "Over TLS: how long browsers ask for the site over TLS alone. Hard to take back; begin with 1d.",
    ),
});

/** Features that a site of files rarely uses, and a script that was smuggled in might. */
const FEATURES = ["camera", "display-capture", "geolocation", "microphone", "payment", "usb"];

export const protect = innermost({
  description:
    "Protective fields of documents: a content security policy that is made of each page, framing, referrer, permissions; isolation and transport security on request.",
  scope: "site",
  schema: z.union([z.boolean(), group]),
  default: false,
  compile: (given, where): ProtectRules | undefined =>
    given === false ? undefined : compile(given === true ? {} : given, where),
  explain: (rules) => rules?.summary ?? "",
});

function compile(group: z.output<typeof protect.schema> & object, where: string): ProtectRules {
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
      const fields = Fields.of([name, value, `${because}, made of the page itself`]).concat(fixed);
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

type Group = z.output<typeof group>;

function compileTransport(given: Group["transportSecurity"], because: string): Fields | undefined {
  if (given === undefined) return undefined;
  const { maxAge, includeSubDomains = false } = typeof given === "object" ? given : { maxAge: given };
  const value = `max-age=${parseDuration(maxAge)}${includeSubDomains ? "; includeSubDomains" : ""}`;
  return Fields.of(["Strict-Transport-Security", value, because]);
}

/** What every page may do: load from the site itself, and pictures and fonts that stand in the text that names them. */
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
