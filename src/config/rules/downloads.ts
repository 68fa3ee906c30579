import * as z from "zod";
import type { DownloadRule } from "../../core/rules/file-rules.js";
import { compileFileRule } from "../patterns.js";
import { innermost } from "../rule.js";
import { files, pattern, reject } from "../values.js";

const saveName = z.string().check((payload) => {
  if (payload.value === "" || /[/\\\p{Cc}]/u.test(payload.value))
    reject(payload, 'a name to save under has no folder: write it as "sightings.csv"');
});

export const downloads = innermost({
  description: "Files that the browser saves and does not show.",
  scope: "mount",
  schema: z.array(z.union([pattern, z.strictObject({ files, saveAs: saveName.optional() })])),
  default: [],
  compile: (rules, where): readonly DownloadRule[] =>
    rules.map((one, i) => {
      const { files: meant, saveAs } = typeof one === "string" ? { files: one, saveAs: undefined } : one;
      return { ...compileFileRule(meant, `${where}.downloads[${i}]`), name: saveAs };
    }),
  explain: (rules) => rules.map(({ files: shown }) => shown).join("; "),
});
