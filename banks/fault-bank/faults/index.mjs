// The faults by area: each is one fault in a server that is right otherwise, and the words that its finding has to speak of it with.
import { CACHING, CONDITIONAL } from "./caching.mjs";
import { CONTENT, TYPES } from "./content.mjs";
import delivery from "./delivery.mjs";
import links from "./links.mjs";
import { HEAD, METHODS } from "./methods.mjs";
import missing from "./missing.mjs";
import { CODINGS, RANGES } from "./parts.mjs";
import { EXPOSURE, LISTINGS, PATHS } from "./paths.mjs";
import wire from "./wire.mjs";

const AREAS = {
  links,
  missing,
  methods: METHODS,
  HEAD,
  wire,
  caching: CACHING,
  conditional: CONDITIONAL,
  ranges: RANGES,
  codings: CODINGS,
  paths: PATHS,
  exposure: EXPOSURE,
  listings: LISTINGS,
  content: CONTENT,
  types: TYPES,
  delivery,
};

export const FAULTS = Object.entries(AREAS).flatMap(([area, rows]) =>
  rows.map(([what, words, fault]) => ({ area, what, words, fault })),
);
