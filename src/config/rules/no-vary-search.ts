import * as z from "zod";
import { Fields } from "../../core/fields/fields.js";
import { innermost } from "../rule.js";
import { reject } from "../values.js";

const name = z.string().check((payload) => {
  if (!/^[\x21\x23-\x5b\x5d-\x7e]+$/.test(payload.value))
    reject(payload, 'a parameter is a name of a query, without blanks and quotes: write it as "utm_source"');
});

export const noVarySearch = innermost({
  description:
    "Queries that mean nothing to a file, so that caches need no copy for each (No-Vary-Search): true for all parameters, a list of those, or all except some.",
  scope: "site",
  schema: z.union([
    z.boolean(),
    z.array(name).min(1),
    z.strictObject({ except: z.array(name).min(1).describe("Parameters that do mean something.") }),
  ]),
  default: false,
  compile: (given, where): Fields | undefined => {
    if (given === false) return undefined;
    const list = (names: readonly string[]): string => `(${names.map((one) => `"${one}"`).join(" ")})`;
    const value =
      given === true
        ? "params"
        : Array.isArray(given)
          ? `params=${list(given)}`
          : `params, except=${list(given.except)}`;
    return Fields.of(["No-Vary-Search", value, `${where}.noVarySearch`]);
  },
  explain: (fields) => fields?.get("No-Vary-Search") ?? "",
});
