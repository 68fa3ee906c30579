import * as z from "zod";
import { innermost } from "../rule.js";

export const digests = innermost({
  description:
    "Digests that clients can hold what they got against (RFC 9530): Repr-Digest where it is known or asked for, Content-Digest where asked for, and a list of them at ?digests of a listed directory.",
  scope: "site",
  schema: z.boolean(),
  default: false,
  compile: (value) => value,
  explain: (value) => (value ? "told" : ""),
});
