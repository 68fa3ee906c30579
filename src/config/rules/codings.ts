import * as z from "zod";
import { CODINGS, type Coding } from "../../core/rules/codings.js";
import { innermost } from "../rule.js";

export const codings = innermost({
  description: "Content codings that are offered.",
  scope: "site",
  schema: z.strictObject({
    prebuilt: z
      .array(z.enum(CODINGS as [Coding, ...Coding[]]))
      .optional()
      .describe("Codings that lie beside the file, as app.js.br and app.js.gz."),
    compress: z.boolean().optional().describe("Compress on the fly what compresses well (default true)."),
  }),
  default: {},
  defaultInWords: "`{ compress: true }`",
  compile: ({ prebuilt = [], compress = true }) => ({ prebuilt: [...new Set(prebuilt)], compress }),
  explain: ({ prebuilt, compress }) =>
    [...prebuilt.map((coding) => `${coding} prebuilt`), ...(compress ? ["made on the fly"] : [])].join(", "),
});
