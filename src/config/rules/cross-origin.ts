import * as z from "zod";
import { compileCrossOrigin } from "../../core/rules/cross-origin.js";
import { innermost } from "../rule.js";
import { reject } from "../values.js";

const origin = z.string().check((payload) => {
  const text = payload.value;
  if (!URL.canParse(text) || new URL(text).origin !== text)
    reject(payload, 'an origin is scheme, host and port: write it as "https://example.org"');
});

export const crossOrigin = innermost({
  description: "Which other origins may read the files.",
  scope: "site",
  schema: z
    .union([z.literal("*"), z.literal(false), z.array(origin).min(1)])
    .describe('"*" for every origin, or a list of origins, such as ["https://example.org"].'),
  default: false,
  compile: (allowed, where) => (allowed === false ? undefined : compileCrossOrigin(allowed, where)),
  explain: (rule) => [rule?.allowed ?? []].flat().join(", "),
});
