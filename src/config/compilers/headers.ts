import { Fields } from "../../core/fields/fields.js";
import type { HeaderRule } from "../../core/rules/file-rules.js";
import { innermost } from "../compiler.js";
import type { Files } from "../patterns.js";
import { compileFileRule } from "../patterns.js";

type Value = readonly { readonly files: Files; readonly set: Readonly<Record<string, string>> }[];

export const headersCompiler = innermost({
  default: [],
  compile: (rules: Value, where): readonly HeaderRule[] =>
    rules.map((one, i) => {
      const rule = compileFileRule(one.files, where, `headers[${i}]`);
      const lines = Object.entries(one.set).map(
        ([name, value]) => [name, value, rule.label, rule.rule] as const,
      );
      return { ...rule, fields: Fields.of(...lines) };
    }),
});
