import * as z from "zod";
import { longAddressesCompiler } from "../compilers/plain.js";
import { defineRule } from "../rule.js";

const schema = z.enum(["answer", "redirect"]);

export const longAddresses = defineRule({
  ...longAddressesCompiler,
  description:
    "What a file's own name is answered with where a shorter address leads to it (/about.html and /about, /guide/index.html and /guide/): answer with the file, or redirect to the shorter address.",
  example: "redirect",
  scope: "site",
  schema,
  explain: (value) => value,
});
