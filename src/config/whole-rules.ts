import type { CompileTools } from "./compile.js";
import { COMPILERS } from "./compilers.js";
import { describeRules } from "./describe-rules.js";
import { listingCompiler } from "./listing/compile.js";
import { PAGE_COMPILERS } from "./page-compilers.js";

/** What a mount is compiled with where everything is there: all rules, and their words. */
export const WHOLE_RULES: Omit<CompileTools, "outermost"> = {
  compilers: { ...COMPILERS, ...PAGE_COMPILERS, listing: listingCompiler },
  describe: describeRules,
};
