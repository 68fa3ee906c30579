import * as z from "zod";
import { defineRule } from "../rule.js";
import { pattern } from "../values.js";
import { withheldCompiler } from "./compile.js";

const schema = z.array(pattern);

export const withheld = defineRule({
  ...withheldCompiler,
  description: "Files that are never served, as patterns. An area adds its own to those of the mount.",
  example: '["*.bak", drafts/]',
  scope: "site",
  schema,
  defaultInWords: "names with a leading dot",
  explain: ({ patterns }) => ["names with a leading dot", ...patterns].join(", "),
});
