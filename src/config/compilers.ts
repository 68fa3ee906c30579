import type { RuleValues } from "../core/rules/rules.js";
import { cachingCompiler, noVarySearchCompiler, validatorsCompiler } from "./caching/compile.js";
import {
  appShellCompiler,
  defaultDocumentsCompiler,
  impliedExtensionsCompiler,
  longAddressesCompiler,
  whenMissingCompiler,
} from "./choosing/compile.js";
import type { Compiler } from "./compiler.js";
import { errorPagesCompiler } from "./errors/compile.js";
import {
  crossOriginCompiler,
  digestsCompiler,
  downloadsCompiler,
  headersCompiler,
} from "./fields/compile.js";
import { notListedCompiler, withheldCompiler } from "./hiding/compile.js";
import { charsetCompiler, mediaTypesCompiler } from "./types/compile.js";
import { codingsCompiler, variantsCompiler } from "./variants/compile.js";

/** A compiler for each rule, by its key: what a site is made with. */
export type Compilers = {
  readonly [Name in keyof RuleValues]: Pick<Compiler<never, RuleValues[Name]>, "compile" | "inheritance"> & {
    readonly default: unknown;
  };
};

/** The rules that take much to carry out: a parser of HTML, or all that a listing is made with. */
export type HeavyRuleName = "protect" | "preloads" | "listing";

/** The compilers of all other rules. */
export const COMPILERS: Omit<Compilers, HeavyRuleName> = {
  withheld: withheldCompiler,
  defaultDocuments: defaultDocumentsCompiler,
  impliedExtensions: impliedExtensionsCompiler,
  longAddresses: longAddressesCompiler,
  notListed: notListedCompiler,
  appShell: appShellCompiler,
  errorPages: errorPagesCompiler,
  whenMissing: whenMissingCompiler,
  mediaTypes: mediaTypesCompiler,
  charset: charsetCompiler,
  codings: codingsCompiler,
  variants: variantsCompiler,
  validators: validatorsCompiler,
  digests: digestsCompiler,
  caching: cachingCompiler,
  noVarySearch: noVarySearchCompiler,
  headers: headersCompiler,
  downloads: downloadsCompiler,
  crossOrigin: crossOriginCompiler,
};
