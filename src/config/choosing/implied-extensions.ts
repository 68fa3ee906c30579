import * as z from "zod";
import { defineRule } from "../rule.js";
import { extension } from "../values.js";
import { impliedExtensionsCompiler } from "./compile.js";

const schema = z.array(extension);

export const impliedExtensions = defineRule({
  ...impliedExtensionsCompiler,
  description: "Extensions to try when a name alone finds no file.",
  example: "[.html]",
  scope: "site",
  schema,
  explain: (extensions) => extensions.join(", "),
});
