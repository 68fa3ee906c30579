import * as z from "zod";
import { compilePattern } from "../patterns.js";
import { defineRule } from "../rule.js";
import { pattern } from "../values.js";
import { notListedCompiler } from "./compile.js";
import { describePrivateNames } from "./private-names.js";

const schema = z.array(pattern);

export const notListed = defineRule({
  ...notListedCompiler,
  description:
    "Files that listings leave out, as patterns. Anyone who knows a name still gets the file; use withheld for files that nobody may see.",
  example: '["*.map"]',
  scope: "site",
  schema,
  explain: ({ patterns }) => patterns.join(", "),
  inspect(patterns, { where }) {
    return patterns.flatMap((written) => {
      const what = describePrivateNames(compilePattern(written).matches);
      if (what === undefined) return [];
      const text = `${where}.notListed: found "${written}", which leaves ${what} out of listings but still sends them to anyone who knows a name; write withheld: ["${written}"] if nobody may have them.`;
      return [{ severity: "warning", text, key: `${where}.notListed` }];
    });
  },
});
