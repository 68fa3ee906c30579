import { z } from "zod";
import { innermost } from "../rule.js";

export const validators = innermost({
  description:
    "What entity tags are made of: size and times (default), or the digest of the bytes, equal on every machine.",
  scope: "site",
  schema: z.enum(["metadata", "content"]),
  default: "metadata",
  compile: (value) => value,
  explain: (value) => value,
});
