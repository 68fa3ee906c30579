import type { RuleValues } from "../core/rules/rules.js";
import type { Compiler } from "./compiler.js";
import { appShellCompiler } from "./compilers/app-shell.js";
import { cachingCompiler } from "./compilers/caching.js";
import { codingsCompiler } from "./compilers/codings.js";
import { crossOriginCompiler } from "./compilers/cross-origin.js";
import { downloadsCompiler } from "./compilers/downloads.js";
import { errorPagesCompiler } from "./compilers/error-pages.js";
import { headersCompiler } from "./compilers/headers.js";
import { mediaTypesCompiler } from "./compilers/media-types.js";
import { noVarySearchCompiler } from "./compilers/no-vary-search.js";
import { notListedCompiler } from "./compilers/not-listed.js";
import {
  charsetCompiler,
  defaultDocumentsCompiler,
  digestsCompiler,
  impliedExtensionsCompiler,
  longAddressesCompiler,
  validatorsCompiler,
  whenMissingCompiler,
} from "./compilers/plain.js";
import { variantsCompiler } from "./compilers/variants.js";
import { withheldCompiler } from "./compilers/withheld.js";

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
