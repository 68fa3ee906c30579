import { innermost } from "../compiler.js";
import { trimSlashes } from "../paths.js";

type Value = Readonly<Record<string, string>>;

export const errorPagesCompiler = innermost({
  default: {},
  compile: (pages: Value): ReadonlyMap<number, string> =>
    new Map(Object.entries(pages).map(([status, path]) => [Number(status), trimSlashes(path)])),
});
