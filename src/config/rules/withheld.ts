import * as z from "zod";
import { compileWithheld } from "../../core/rules/withheld.js";
import { compilePattern } from "../patterns.js";
import { addsUp } from "../rule.js";
import { pattern } from "../values.js";

/** Adds up: an inner area can hide more, and never uncovers what an outer one hides. */
export const withheld = addsUp({
  description: "Patterns of files that are never served; an area adds to what encloses it.",
  scope: "site",
  schema: z.array(pattern),
  default: [],
  defaultInWords: "names with a leading dot",
  compile(said) {
    const patterns = said.flatMap(({ value, where }) =>
      value.map((written) => ({
        label: `the pattern ${JSON.stringify(written)} of ${where}`,
        covers: compilePattern(written).covers,
      })),
    );
    return { by: compileWithheld(patterns), patterns: said.flatMap(({ value }) => value) };
  },
  explain: ({ patterns }) => ["names with a leading dot", ...patterns].join(", "),
});
