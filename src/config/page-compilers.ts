import { preloadsCompiler } from "./compilers/preloads.js";
import { protectCompiler } from "./compilers/protect.js";
import type { Compilers } from "./compilers.js";

/** The compilers of the rules that read pages. */
export const PAGE_COMPILERS: Pick<Compilers, "protect" | "preloads"> = {
  protect: protectCompiler,
  preloads: preloadsCompiler,
};
