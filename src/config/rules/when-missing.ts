import * as z from "zod";
import { whenMissingCompiler } from "../compilers/plain.js";
import { defineRule } from "../rule.js";

const schema = z.enum(["pass", "answer"]);

export const whenMissing = defineRule({
  ...whenMissingCompiler,
  description:
    "pass: hand what is missing on to the application, where one stands behind the site; answer: an error all the same.",
  example: "answer",
  scope: "site",
  schema,
  explain: (value) => value,
});
