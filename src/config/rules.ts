import { appShell } from "./rules/app-shell.js";
import { caching } from "./rules/caching.js";
import { charset } from "./rules/charset.js";
import { codings } from "./rules/codings.js";
import { crossOrigin } from "./rules/cross-origin.js";
import { defaultDocuments } from "./rules/default-documents.js";
import { downloads } from "./rules/downloads.js";
import { errorPages } from "./rules/error-pages.js";
import { headers } from "./rules/headers.js";
import { impliedExtensions } from "./rules/implied-extensions.js";
import { listing } from "./rules/listing.js";
import { mediaTypes } from "./rules/media-types.js";
import { unlisted } from "./rules/unlisted.js";
import { validators } from "./rules/validators.js";
import { whenMissing } from "./rules/when-missing.js";
import { withheld } from "./rules/withheld.js";

/**
 * Every rule of the configuration, by its key, in the order of the work. The schema, the compiler, explanations, the start's
 * checks and the documentation's table are made from this list.
 */
export const RULES = {
  withheld,
  defaultDocuments,
  impliedExtensions,
  listing,
  unlisted,
  appShell,
  errorPages,
  whenMissing,
  mediaTypes,
  charset,
  codings,
  validators,
  caching,
  headers,
  downloads,
  crossOrigin,
};

export type RuleName = keyof typeof RULES;

/** The names of the rules, in the order of the list. */
export const RULE_NAMES = Object.keys(RULES) as readonly RuleName[];
