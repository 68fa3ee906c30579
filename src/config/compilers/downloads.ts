import type { DownloadRule } from "../../core/rules/file-rules.js";
import { innermost } from "../compiler.js";
import type { Files } from "../patterns.js";
import { compileFileRule } from "../patterns.js";

type Value = readonly (string | { readonly files: Files; readonly saveAs?: string | undefined })[];

export const downloadsCompiler = innermost({
  default: [],
  compile: (rules: Value, where): readonly DownloadRule[] =>
    rules.map((one, i) => {
      const { files: meant, saveAs } = typeof one === "string" ? { files: one, saveAs: undefined } : one;
      return { ...compileFileRule(meant, where, `downloads[${i}]`), name: saveAs };
    }),
});
