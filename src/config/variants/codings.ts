import * as z from "zod";
import { CODINGS, type Coding } from "../../core/rules/codings.js";
import { defineRule } from "../rule.js";
import { codingsCompiler } from "./compile.js";

const schema = z.strictObject({
  prebuilt: z
    .array(z.enum(CODINGS as [Coding, ...Coding[]]))
    .optional()
    .meta({
      description: "Codings of prebuilt files beside the original, such as app.js.br and app.js.gz.",
      example: "[br, gzip]",
    }),
  compress: z
    .boolean()
    .optional()
    .describe("Compress files on the fly if they compress well (default true)."),
});

export const codings = defineRule({
  ...codingsCompiler,
  description: "Compression: prebuilt files beside the original, and compressing on the fly.",
  example: "{ prebuilt: [br, gzip] }",
  scope: "site",
  schema,
  defaultInWords: "`{ compress: true }`",
  explain: ({ prebuilt, compress }) =>
    [...prebuilt.map((coding) => `${coding} prebuilt`), ...(compress ? ["made on the fly"] : [])].join(", "),
});
