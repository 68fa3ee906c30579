import * as z from "zod";
import { defineRule } from "../rule.js";
import { whenMissingCompiler } from "./compile.js";

const schema = z.enum(["pass", "answer"]);

export const whenMissing = defineRule({
  ...whenMissingCompiler,
  description:
    "What to do when no file answers. pass: let the application behind the site answer, if there is one. answer: send an error.",
  example: "answer",
  scope: "site",
  schema,
  explain: (value) => value,
});
