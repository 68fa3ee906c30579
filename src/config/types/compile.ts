import type { AddedType } from "../../core/media-types/media-type.js";
import type { RuleValues } from "../../core/rules/rules.js";
import { addsUp, asSaid, type Said } from "../compiler.js";

type MediaTypesValue = Readonly<Record<string, string>>;

/** Adds up: each extension is its own rule, and the innermost place that names it decides. */
export const mediaTypesCompiler = addsUp({
  default: {},
  compile: (said: readonly Said<MediaTypesValue>[]): ReadonlyMap<string, AddedType> =>
    new Map(
      said.flatMap(({ value, where }) =>
        Object.entries(value).map(([ext, type]) => [
          ext.slice(1).toLowerCase(),
          { type: type.toLowerCase(), said: where },
        ]),
      ),
    ),
});

export const charsetCompiler = asSaid<RuleValues["charset"]>("utf-8");
