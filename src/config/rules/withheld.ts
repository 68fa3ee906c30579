import * as z from "zod";
import { withheldCompiler } from "../compilers/withheld.js";
import { defineRule } from "../rule.js";
import { pattern } from "../values.js";

const schema = z.array(pattern);

export const withheld = defineRule({
  ...withheldCompiler,
  description: "Patterns of files that are never served; an area adds to what encloses it.",
  example: '["*.bak", drafts/]',
  scope: "site",
  schema,
  defaultInWords: "names with a leading dot",
  explain: ({ patterns }) => ["names with a leading dot", ...patterns].join(", "),
});
