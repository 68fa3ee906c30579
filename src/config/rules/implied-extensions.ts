import * as z from "zod";
import { innermost } from "../rule.js";
import { extension } from "../values.js";

export const impliedExtensions = innermost({
  description: "Extensions tried when a name alone finds no file.",
  scope: "site",
  schema: z.array(extension),
  default: [],
  compile: (extensions) => extensions,
  explain: (extensions) => extensions.join(", "),
});
