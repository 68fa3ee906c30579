import { Fields } from "../../core/fields/fields.js";
import { compileCrossOrigin } from "../../core/rules/cross-origin.js";
import type { DownloadRule, HeaderRule } from "../../core/rules/file-rules.js";
import type { RuleValues } from "../../core/rules/rules.js";
import { asSaid, innermost } from "../compiler.js";
import { compileFileRule, type Files } from "../patterns.js";

type DownloadsValue = readonly (string | { readonly files: Files; readonly saveAs?: string | undefined })[];

export const downloadsCompiler = innermost({
  default: [],
  compile: (rules: DownloadsValue, where): readonly DownloadRule[] =>
    rules.map((one, i) => {
      const { files: meant, saveAs } = typeof one === "string" ? { files: one, saveAs: undefined } : one;
      return { ...compileFileRule(meant, where, `downloads[${i}]`), name: saveAs };
    }),
});

type CrossOriginValue = "*" | false | readonly string[];

export const crossOriginCompiler = innermost({
  default: false,
  compile: (allowed: CrossOriginValue, where) =>
    allowed === false ? undefined : compileCrossOrigin(allowed, where),
});

type HeadersValue = readonly { readonly files: Files; readonly set: Readonly<Record<string, string>> }[];

export const headersCompiler = innermost({
  default: [],
  compile: (rules: HeadersValue, where): readonly HeaderRule[] =>
    rules.map((one, i) => {
      const rule = compileFileRule(one.files, where, `headers[${i}]`);
      const lines = Object.entries(one.set).map(
        ([name, value]) => [name, value, rule.label, rule.rule] as const,
      );
      return { ...rule, fields: Fields.of(...lines) };
    }),
});

export const digestsCompiler = asSaid<RuleValues["digests"]>(false);
