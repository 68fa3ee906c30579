import * as z from "zod";
import { defineRule } from "../rule.js";
import { digestsCompiler } from "./compile.js";

const schema = z.boolean();

export const digests = defineRule({
  ...digestsCompiler,
  description:
    "Sends digests of files to clients that ask for them (RFC 9530), and lists them at ?digests of a listed folder.",
  example: "true",
  scope: "site",
  schema,
  explain: (value) => (value ? "told" : ""),
});
