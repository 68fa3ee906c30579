import * as z from "zod";
import { digestsCompiler } from "../compilers/plain.js";
import { defineRule } from "../rule.js";

const schema = z.boolean();

export const digests = defineRule({
  ...digestsCompiler,
  description:
    "Digests that clients can hold what they got against (RFC 9530): Repr-Digest where it is known or asked for, Content-Digest where asked for, and a list of them at ?digests of a listed directory.",
  example: "true",
  scope: "site",
  schema,
  explain: (value) => (value ? "told" : ""),
});
