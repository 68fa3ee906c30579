import type { Compilers } from "./compilers.js";
import { preloadsCompiler } from "./preloads/compile.js";
import { protectCompiler } from "./protection/compile.js";

/** The compilers of the rules that read pages. */
export const PAGE_COMPILERS: Pick<Compilers, "protect" | "preloads"> = {
  protect: protectCompiler,
  preloads: preloadsCompiler,
};
