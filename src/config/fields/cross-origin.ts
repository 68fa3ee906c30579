import * as z from "zod";
import { defineRule } from "../rule.js";
import { reject } from "../values.js";
import { crossOriginCompiler } from "./compile.js";

const origin = z.string().check((payload) => {
  const text = payload.value;
  if (!URL.canParse(text) || new URL(text).origin !== text)
    reject(payload, `an origin is scheme, host and port, and no more: write it as "${originOf(text)}"`);
});

function originOf(text: string): string {
  const url = /^[\w-]+:\/\//.test(text) ? text : `https://${text}`;
  return URL.canParse(url) && /^https?:/.test(url) ? new URL(url).origin : "https://maps.larkholm.example";
}

const schema = z
  .union([z.literal("*"), z.literal(false), z.array(origin).min(1)])
  .describe('"*" for every origin, or a list of origins, such as ["https://example.org"].');

export const crossOrigin = defineRule({
  ...crossOriginCompiler,
  description: "Other origins that may read the files.",
  example: "[https://maps.larkholm.example]",
  scope: "site",
  schema,
  explain: (rule) => [rule?.allowed ?? []].flat().join(", "),
});
