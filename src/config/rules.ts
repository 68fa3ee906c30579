import type { RuleValues } from "../core/rules/rules.js";
import { appShell } from "./rules/app-shell.js";
import { caching } from "./rules/caching.js";
import { charset } from "./rules/charset.js";
import { codings } from "./rules/codings.js";
import { crossOrigin } from "./rules/cross-origin.js";
import { defaultDocuments } from "./rules/default-documents.js";
import { digests } from "./rules/digests.js";
import { downloads } from "./rules/downloads.js";
import { errorPages } from "./rules/error-pages.js";
import { headers } from "./rules/headers.js";
import { impliedExtensions } from "./rules/implied-extensions.js";
import { listing } from "./rules/listing.js";
import { longAddresses } from "./rules/long-addresses.js";
import { mediaTypes } from "./rules/media-types.js";
import { noVarySearch } from "./rules/no-vary-search.js";
import { notListed } from "./rules/not-listed.js";
import { preloads } from "./rules/preloads.js";
import { protect } from "./rules/protect.js";
import { validators } from "./rules/validators.js";
import { variants } from "./rules/variants.js";
import { whenMissing } from "./rules/when-missing.js";
import { withheld } from "./rules/withheld.js";

/**
 * Every rule of the configuration, by its key, in the order of the work. The schema, explanations, the start's checks and the
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
