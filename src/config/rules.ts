import type { RuleValues } from "../core/rules/rules.js";
import { caching } from "./caching/caching.js";
import { noVarySearch } from "./caching/no-vary-search.js";
import { validators } from "./caching/validators.js";
import { appShell } from "./choosing/app-shell.js";
import { defaultDocuments } from "./choosing/default-documents.js";
import { impliedExtensions } from "./choosing/implied-extensions.js";
import { longAddresses } from "./choosing/long-addresses.js";
import { whenMissing } from "./choosing/when-missing.js";
import { errorPages } from "./errors/error-pages.js";
import { crossOrigin } from "./fields/cross-origin.js";
import { digests } from "./fields/digests.js";
import { downloads } from "./fields/downloads.js";
import { headers } from "./fields/headers.js";
import { notListed } from "./hiding/not-listed.js";
import { withheld } from "./hiding/withheld.js";
import { listing } from "./listing/listing.js";
import { preloads } from "./preloads/preloads.js";
import { protect } from "./protection/protect.js";
import { charset } from "./types/charset.js";
import { mediaTypes } from "./types/media-types.js";
import { codings } from "./variants/codings.js";
import { variants } from "./variants/variants.js";

/**
 * Every rule of the configuration, by its key, in the order of the work. The schema, explanations, the checks at startup and the
 * documentation's table are made from this list. It holds just the rules that the core works with: one that only one of the two
 * knows does not compile.
 */
export const RULES = {
  withheld,
  defaultDocuments,
  impliedExtensions,
  longAddresses,
  listing,
  notListed,
  appShell,
  errorPages,
  whenMissing,
  mediaTypes,
  charset,
  codings,
  variants,
  validators,
  digests,
  caching,
  noVarySearch,
  headers,
  downloads,
  protect,
  preloads,
  crossOrigin,
} satisfies { readonly [Name in keyof RuleValues]: { compile: (said: never) => RuleValues[Name] } };

export type RuleName = keyof typeof RULES;

/** The names of the rules, in the order of the list. */
export const RULE_NAMES = Object.keys(RULES) as readonly RuleName[];
