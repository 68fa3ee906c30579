import { z } from "zod";
import { innermost } from "../rule.js";

export const whenMissing = innermost({
  description: "answer: an error; pass: hand the request on to the application.",
  scope: "site",
  schema: z.enum(["answer", "pass"]),
  default: "answer",
  compile: (value) => value,
  explain: (value) => value,
});
