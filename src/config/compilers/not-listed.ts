import { foldName } from "../../core/text/fold-name.js";
import { innermost } from "../compiler.js";
import { compilePattern } from "../patterns.js";

type Value = readonly string[];

export const notListedCompiler = innermost({
  default: [],
  compile(patterns: Value, where) {
    const tests = patterns.map((written) => ({ written, matches: compilePattern(written).matches }));
    const by = (path: string): string | undefined => {
      const folded = foldName(path);
      const hit = tests.find(({ matches }) => matches(folded));
      return hit && `the pattern ${JSON.stringify(hit.written)} in notListed of ${where.words}`;
    };
    return { by: tests.length === 0 ? () => undefined : by, patterns };
  },
});
