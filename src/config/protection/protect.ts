import * as z from "zod";
import { DIRECTIVES } from "../../core/rules/protect.js";
import { defineRule } from "../rule.js";
import { duration, reject } from "../values.js";
import { protectCompiler } from "./compile.js";

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
      ? `a keyword of a policy needs its own quotes: write "'${word}'"`
      : 'a source is one host, one scheme or one word: write it as "https://maps.larkholm.example", "blob:" or "\'self\'"',
  );
});

/** A source that adds to others: 'none' counts only where it is alone. */
const added = source.check((payload) => {
  if (payload.value === "'none'") reject(payload, "'none' adds nothing: leave it out, or change the page");
});

/** Who may frame it is said by `framing`. */
const ALLOWED = DIRECTIVES.filter((name) => name !== "frame-ancestors");

const allow = z
  .partialRecord(z.enum(ALLOWED), z.array(added).min(1))
  .describe(
    "What documents may load besides the site's files and what they name, by directives of the policy: { connect-src: [https://api.larkholm.example] }.",
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
      "enforce (the default) blocks what the policy forbids; report-only only reports it; none sends no policy.",
    ),
  allow: allow.optional(),
  report: address.optional().describe("Where browsers send reports about the policy."),
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
      "What other sites learn about where a visitor comes from (default strict-origin-when-cross-origin).",
    ),
  permissions: z
    .array(feature)
    .optional()
    .describe(
      "Features that documents may use, such as geolocation; without this, camera, microphone and similar ones are off.",
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
    .describe("Over TLS: how long browsers must use TLS for the site. Hard to take back; begin with 1d."),
});

const schema = z.union([z.boolean(), group]);

export const protect = defineRule({
  ...protectCompiler,
  description:
    "Security headers of documents: a content security policy made from each page, and rules for framing, referrer and permissions. Isolation and transport security are optional.",
  example: "{ allow: { connect-src: [https://api.larkholm.example] } }",
  scope: "site",
  schema,
  explain: (rules) => rules?.summary ?? "",
});
