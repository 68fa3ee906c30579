import * as z from "zod";
import { defineRule } from "../rule.js";
import { longAddressesCompiler } from "./compile.js";

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
