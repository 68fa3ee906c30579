import * as z from "zod";
import { innermost } from "../rule.js";

export const longAddresses = innermost({
  description:
    "What a file's own name is answered with where a shorter address leads to it (/about.html and /about, /guide/index.html and /guide/): answer with the file, or redirect to the shorter address.",
  scope: "site",
  schema: z.enum(["answer", "redirect"]),
  default: "answer",
  compile: (value) => value,
  explain: (value) => value,
});
