import * as z from "zod";
import { CODING_ENDINGS, CODINGS, type Coding } from "../../core/rules/codings.js";
import { findNowhere } from "../nowhere.js";
import { defineRule, type Finding } from "../rule.js";
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
  async inspect({ prebuilt = [] }, { mount, area, where }) {
    const missing = await findNowhere(mount, area, prebuilt, (name, coding) =>
      name.endsWith(CODING_ENDINGS[coding]),
    );
    return missing.map((coding): Finding => {
      const key = `${where}.codings.prebuilt`;
      const text = `${key}: found ${coding}, but no file ends in ${CODING_ENDINGS[coding]}; let the build write such files beside the others, or leave it out.`;
      return { severity: "warning", key, text };
    });
  },
});
