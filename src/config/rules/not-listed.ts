import * as z from "zod";
import { foldName } from "../../core/text/fold-name.js";
import { compilePattern } from "../patterns.js";
import { describePrivateNames } from "../private-names.js";
import { innermost } from "../rule.js";
import { pattern } from "../values.js";

export const notListed = innermost({
  description:
    "Patterns of files that listings leave out; they are still served. What must not be seen is withheld.",
  scope: "site",
  schema: z.array(pattern),
  default: [],
  compile(patterns, where) {
    const tests = patterns.map((written) => ({ written, matches: compilePattern(written).matches }));
    const by = (path: string): string | undefined => {
      const folded = foldName(path);
      const hit = tests.find(({ matches }) => matches(folded));
      return hit && `the pattern ${JSON.stringify(hit.written)} in notListed of ${where}`;
    };
    return { by: tests.length === 0 ? () => undefined : by, patterns };
  },
  explain: ({ patterns }) => patterns.join(", "),
  inspect(patterns, { where }) {
    return patterns.flatMap((written) => {
      const what = describePrivateNames(compilePattern(written).matches);
      if (what === undefined) return [];
      const text = `${where}.notListed: found "${written}", which leaves ${what} out of listings and still sends them to anyone who knows a name; write withheld: ["${written}"] if nobody may have them.`;
      return [{ severity: "warning", text }];
    });
  },
});
