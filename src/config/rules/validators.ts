import * as z from "zod";
import { innermost } from "../rule.js";

export const validators = innermost({
  description:
    "What entity tags are made of. automatic: the digest of the bytes up to 1 MiB, size and times above; content: always the digest; metadata: always size and times.",
  scope: "site",
  schema: z.enum(["automatic", "content", "metadata"]),
  default: "automatic",
  compile: (value) => value,
  explain: (value) => value,
});
