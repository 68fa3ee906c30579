import * as z from "zod";
import { isMediaType } from "../../core/media-types/text-format.js";
import { defineRule } from "../rule.js";
import { extension, reject } from "../values.js";
import { mediaTypesCompiler } from "./compile.js";

const mediaType = z.string().check((payload) => {
  const [type = "", ...parameters] = payload.value.split(";");
  if (!isMediaType(type.trim()) || parameters.some((p) => !/^[ \t]*[\w-]+=[\w"./+-]+$/.test(p)))
    reject(payload, 'a media type has the form type/subtype: write it as "text/markdown"');
});

const schema = z.record(extension, mediaType);

export const mediaTypes = defineRule({
  ...mediaTypesCompiler,
  description: "Media types by extension. They come before the built-in table; an area adds its own.",
  example: "{ .glb: model/gltf-binary }",
  scope: "site",
  schema,
  defaultInWords: "the built-in table",
  explain: (types) => [...types].map(([ext, { type }]) => `.${ext}: ${type}`).join(", "),
});
