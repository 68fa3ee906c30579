import { innermost } from "../compiler.js";
import { trimSlashes } from "../paths.js";

type ErrorPagesValue = Readonly<Record<string, string>>;

export const errorPagesCompiler = innermost({
  default: {},
  compile: (pages: ErrorPagesValue): ReadonlyMap<number, string> =>
    new Map(Object.entries(pages).map(([status, path]) => [Number(status), trimSlashes(path)])),
});
