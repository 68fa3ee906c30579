import type { AddedType } from "../../core/media-types/media-type.js";
import { addsUp, type Said } from "../compiler.js";

type Value = Readonly<Record<string, string>>;

/** Adds up: each extension is its own rule, and the innermost place that names it decides. */
export const mediaTypesCompiler = addsUp({
  default: {},
  compile: (said: readonly Said<Value>[]): ReadonlyMap<string, AddedType> =>
    new Map(
      said.flatMap(({ value, where }) =>
        Object.entries(value).map(([ext, type]) => [
          ext.slice(1).toLowerCase(),
          { type: type.toLowerCase(), said: where },
        ]),
      ),
    ),
});
