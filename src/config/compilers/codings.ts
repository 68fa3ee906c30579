import type { Coding } from "../../core/rules/codings.js";
import { innermost } from "../compiler.js";

interface Value {
  readonly prebuilt?: readonly Coding[] | undefined;
  readonly compress?: boolean | undefined;
}

export const codingsCompiler = innermost({
  default: {},
  compile: ({ prebuilt = [], compress = true }: Value) => ({ prebuilt: [...new Set(prebuilt)], compress }),
});
