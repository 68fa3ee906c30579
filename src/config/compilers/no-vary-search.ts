import { Fields } from "../../core/fields/fields.js";
import { keyAt } from "../../core/text/origin.js";
import { innermost } from "../compiler.js";

type Value = boolean | readonly string[] | { readonly except: readonly string[] };

export const noVarySearchCompiler = innermost({
  default: false,
  compile: (given: Value, where): Fields | undefined => {
    if (given === false) return undefined;
    const list = (names: readonly string[]): string => `(${names.map((one) => `"${one}"`).join(" ")})`;
    const value =
      given === true
        ? "params"
        : "except" in given
          ? `params, except=${list(given.except)}`
          : `params=${list(given)}`;
    return Fields.of(["No-Vary-Search", value, `${where.words}.noVarySearch`, keyAt(where, "noVarySearch")]);
  },
});
