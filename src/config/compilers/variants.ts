import type { VariantRules } from "../../core/rules/variants.js";
import { innermost } from "../compiler.js";

interface Value {
  readonly formats?: readonly string[] | undefined;
  readonly languages?: readonly string[] | undefined;
}

export const variantsCompiler = innermost({
  default: {},
  compile: ({ formats = [], languages = [] }: Value): VariantRules | undefined =>
    formats.length === 0 && languages.length === 0
      ? undefined
      : { formats, languages: languages.map((one) => one.toLowerCase()) },
});
