import type { Coding } from "../../core/rules/codings.js";
import type { VariantRules } from "../../core/rules/variants.js";
import { innermost } from "../compiler.js";

interface VariantsValue {
  readonly formats?: readonly string[] | undefined;
  readonly languages?: readonly string[] | undefined;
}

export const variantsCompiler = innermost({
  default: {},
  compile: ({ formats = [], languages = [] }: VariantsValue): VariantRules | undefined =>
    formats.length === 0 && languages.length === 0
      ? undefined
      : { formats, languages: languages.map((one) => one.toLowerCase()) },
});

interface CodingsValue {
  readonly prebuilt?: readonly Coding[] | undefined;
  readonly compress?: boolean | undefined;
}

export const codingsCompiler = innermost({
  default: {},
  compile: ({ prebuilt = [], compress = true }: CodingsValue) => ({
    prebuilt: [...new Set(prebuilt)],
    compress,
  }),
});
