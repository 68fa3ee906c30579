import * as z from "zod";
import { defineRule } from "../rule.js";
import { files, pattern, reject } from "../values.js";
import { downloadsCompiler } from "./compile.js";

const saveName = z.string().check((payload) => {
  if (payload.value === "" || /[/\\\p{Cc}]/u.test(payload.value))
    reject(payload, 'a name to save under has no folder: write it as "sightings.csv"');
});

const schema = z.array(z.union([pattern, z.strictObject({ files, saveAs: saveName.optional() })]));

export const downloads = defineRule({
  ...downloadsCompiler,
  description: "Files that the browser saves instead of showing them.",
  example: '["*.csv", { files: report.pdf, saveAs: Season.pdf }]',
  scope: "mount",
  schema,
  explain: (rules) => rules.map(({ files: shown }) => shown).join("; "),
});
