import * as z from "zod";
import { defineRule } from "../rule.js";
import { reject } from "../values.js";
import { noVarySearchCompiler } from "./compile.js";

const name = z.string().check((payload) => {
  if (!/^[\x21\x23-\x5b\x5d-\x7e]+$/.test(payload.value))
    reject(payload, 'a parameter is a name of a query, without blanks and quotes: write it as "utm_source"');
});

const schema = z.union([
  z.boolean(),
  z.array(name).min(1),
  z.strictObject({ except: z.array(name).min(1).describe("Parameters that do change the answer.") }),
]);

export const noVarySearch = defineRule({
  ...noVarySearchCompiler,
  description:
    "Query parameters that do not change the answer, so that caches keep one copy (No-Vary-Search): true for all, a list of some, or all except some.",
  example: "[utm_source]",
  scope: "site",
  schema,
  explain: (fields) => fields?.get("No-Vary-Search") ?? "",
});
