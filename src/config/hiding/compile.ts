import { compileWithheld } from "../../core/rules/withheld.js";
import { foldName } from "../../core/text/fold-name.js";
import { addsUp, innermost, type Said } from "../compiler.js";
import { compilePattern } from "../patterns.js";

type WithheldValue = readonly string[];

/** Adds up: an inner area can hide more, and never uncovers what an outer one hides. */
export const withheldCompiler = addsUp({
  default: [],
  compile(said: readonly Said<WithheldValue>[]) {
    const patterns = said.flatMap(({ value, where }) =>
      value.map((written) => ({
        label: `the pattern ${JSON.stringify(written)} of ${where.words}`,
        covers: compilePattern(written).covers,
      })),
    );
    return { by: compileWithheld(patterns), patterns: said.flatMap(({ value }) => value) };
  },
});

type NotListedValue = readonly string[];

export const notListedCompiler = innermost({
  default: [],
  compile(patterns: NotListedValue, where) {
    const tests = patterns.map((written) => ({ written, matches: compilePattern(written).matches }));
    const by = (path: string): string | undefined => {
      const folded = foldName(path);
      const hit = tests.find(({ matches }) => matches(folded));
      return hit && `the pattern ${JSON.stringify(hit.written)} in notListed of ${where.words}`;
    };
    return { by: tests.length === 0 ? () => undefined : by, patterns };
  },
});
