import * as z from "zod";
import { MEDIA_TYPES } from "../../core/media-types/table.js";
import { defineRule } from "../rule.js";
import { reject } from "../values.js";
import { variantsCompiler } from "./compile.js";

const AT_MOST = 16;

const format = z.string().check((payload) => {
  const { value } = payload;
  if (value.startsWith("."))
    reject(payload, `a format is an extension without its dot: write "${value.replace(/^\.+/, "")}"`);
  else if (!MEDIA_TYPES.get(value)?.startsWith("image/"))
    reject(payload, 'a format is an extension of pictures: write it as "avif" or "webp"');
});

/** RFC 5646 §2.1, without what nobody puts into a file name. */
const language = z.string().check((payload) => {
  if (!/^[a-z]{2,3}(?:-[a-z0-9]{2,8})*$/i.test(payload.value))
    reject(payload, 'a language is a tag of RFC 5646: write it as "en", "nb" or "pt-BR"');
});

const unlike = <Item extends z.ZodType<string>>(item: Item) =>
  z
    .array(item)
    .max(AT_MOST)
    .check((payload) => {
      const folded = payload.value.map((one) => one.toLowerCase());
      const twice = folded.find((one, index) => folded.indexOf(one) !== index);
      if (twice !== undefined) reject(payload, `"${twice}" is there twice: leave one out`);
    });

const schema = z.strictObject({
  formats: unlike(format).optional().meta({
    description:
      "Formats of pictures beside the original, such as view.avif beside view.jpg: the best first. Chosen by Accept.",
    example: "[avif, webp]",
  }),
  languages: unlike(language)
    .refine((list) => list.length !== 1, {
      error:
        "the first language is for files without one in their names, and others follow: write it as [en, nb]",
    })
    .optional()
    .meta({
      description:
        "Languages of documents: first that of index.html itself, then those of index.nb.html and similar files beside it. Chosen by Accept-Language.",
      example: "[en, nb]",
    }),
});

export const variants = defineRule({
  ...variantsCompiler,
  description:
    "Other files with the same content that a browser may prefer: a picture in another format, a document in another language.",
  example: "{ formats: [avif, webp] }",
  scope: "site",
  schema,
  defaultInWords: "`{}`",
  explain: (rules) =>
    rules === undefined
      ? ""
      : [
          ...(rules.formats.length > 0 ? [`formats ${rules.formats.join(", ")}`] : []),
          ...(rules.languages.length > 0 ? [`languages ${rules.languages.join(", ")}`] : []),
        ].join("; "),
});
