import * as z from "zod";
import { longAddressesCompiler } from "../compilers/plain.js";
import { defineRule } from "../rule.js";

const schema = z.enum(["answer", "redirect"]);

export const longAddresses = defineRule({
  ...longAddressesCompiler,
  description:
    "How to answer a file's full name if a shorter address finds it, as /about finds /about.html: answer with the file, or redirect to the shorter address.",
  example: "redirect",
  scope: "site",
  schema,
  explain: (value) => value,
});
