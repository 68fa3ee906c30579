import * as z from "zod";
import { defineRule } from "../rule.js";
import { validatorsCompiler } from "./compile.js";

const schema = z.enum(["automatic", "content", "metadata"]);

export const validators = defineRule({
  ...validatorsCompiler,
  description:
    "What entity tags are made from. automatic: the bytes of files up to 1 MiB, size and times of larger ones. content: always the bytes. metadata: always size and times.",
  example: "content",
  scope: "site",
  schema,
  explain: (value) => value,
});
