import { Fields } from "../fields/fields.js";
import { keyAt, type Origin } from "../text/origin.js";

/** Which origins may read the files: all, or those of a list. */
export type AllowedOrigins = "*" | readonly string[];

/** Which other origins may read the files, with the fields that tell them so. */
export interface CrossOrigin {
  readonly allowed: AllowedOrigins;
  /** The value of Access-Control-Allow-Origin for an origin; undefined for one that may not read. */
  readonly grant: (origin: string | undefined) => string | undefined;
  /** The fields for an origin, of any answer but one to a preflight. */
  readonly fieldsFor: (origin: string | undefined) => Fields;
  /** What the answer depends on, besides. */
  readonly vary: Fields;
}

// What a script of another origin may see of a response, besides the fields that it always may.
const EXPOSED = "Accept-Ranges, Content-Encoding, Content-Length, Content-Range, ETag";

/** Prepares the fields that let other origins read a response (Fetch Standard §3.2, §3.7). `said` is where the rule is written. */
export function compileCrossOrigin(allowed: AllowedOrigins, said: Origin): CrossOrigin {
  const because = `crossOrigin of ${said.words}`;
  const rule = keyAt(said, "crossOrigin");
  const vary =
    allowed === "*"
      ? Fields.NONE
      : Fields.of(["Vary", "Origin", `the origin that asks decides, ${because}`, rule]);
  const policy = Fields.of(["Cross-Origin-Resource-Policy", "cross-origin", because, rule]);
  const others = policy.concat(vary);
  const open = (origin: string): Fields =>
    Fields.of(
      ["Access-Control-Allow-Origin", origin, because, rule],
      ["Access-Control-Expose-Headers", EXPOSED, because, rule],
    ).concat(others);
  if (allowed === "*") {
    const anyone = open("*");
    return { allowed, grant: () => "*", fieldsFor: () => anyone, vary };
  }
  const byOrigin = new Map(allowed.map((origin) => [origin, open(origin)]));
  return {
    allowed,
    grant: (origin) => (byOrigin.has(origin ?? "") ? origin : undefined),
    fieldsFor: (origin) => byOrigin.get(origin ?? "") ?? others,
    vary,
  };
}
