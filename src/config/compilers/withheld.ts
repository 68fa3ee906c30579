import { compileWithheld } from "../../core/rules/withheld.js";
import { addsUp, type Said } from "../compiler.js";
import { compilePattern } from "../patterns.js";

type Value = readonly string[];

/** Adds up: an inner area can hide more, and never uncovers what an outer one hides. */
export const withheldCompiler = addsUp({
  default: [],
  compile(said: readonly Said<Value>[]) {
    const patterns = said.flatMap(({ value, where }) =>
      value.map((written) => ({
        label: `the pattern ${JSON.stringify(written)} of ${where.words}`,
        covers: compilePattern(written).covers,
      })),
    );
    return { by: compileWithheld(patterns), patterns: said.flatMap(({ value }) => value) };
  },
});
