import * as z from "zod";
import { innermost } from "../rule.js";

export const whenMissing = innermost({
  description:
    "pass: hand what is missing on to the application, where one stands behind the site; answer: an error all the same.",
  scope: "site",
  schema: z.enum(["pass", "answer"]),
  default: "pass",
  compile: (value) => value,
  explain: (value) => value,
});
