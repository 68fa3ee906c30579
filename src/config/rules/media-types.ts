import * as z from "zod";
import type { AddedType } from "../../core/media-types/media-type.js";
import { isMediaType } from "../../core/media-types/text-format.js";
import { addsUp } from "../rule.js";
import { extension, reject } from "../values.js";

const mediaType = z.string().check((payload) => {
  const [type = "", ...parameters] = payload.value.split(";");
  if (!isMediaType(type.trim()) || parameters.some((p) => !/^[ \t]*[\w-]+=[\w"./+-]+$/.test(p)))
    reject(payload, 'a media type has the form type/subtype: write it as "model/gltf-binary"');
});

/** Adds up: each extension is a rule of its own, and the innermost place that names it decides. */
export const mediaTypes = addsUp({
  description: "Media types by extension, before the built-in table; an area adds to what encloses it.",
  scope: "site",
  schema: z.record(extension, mediaType),
  default: {},
  defaultInWords: "the built-in table",
  compile: (said): ReadonlyMap<string, AddedType> =>
    new Map(
      said.flatMap(({ value, where }) =>
        Object.entries(value).map(([ext, type]) => [
          ext.slice(1).toLowerCase(),
          { type: type.toLowerCase(), said: where },
        ]),
      ),
    ),
  explain: (types) => [...types].map(([ext, { type }]) => `.${ext}: ${type}`).join(", "),
});
