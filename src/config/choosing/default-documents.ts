import * as z from "zod";
import { withheldIn } from "../../core/rules/mount.js";
import { joinPath } from "../../core/text/path.js";
import { defineRule } from "../rule.js";
import { reject } from "../values.js";
import { defaultDocumentsCompiler } from "./compile.js";

const fileName = z.string().check((payload) => {
  const name = payload.value;
  if (name === "" || name === "." || name === ".." || /[/\\\0]/.test(name))
    reject(payload, 'a default document is a file name without a folder: write it as "index.html"');
});

const schema = z.array(fileName);

export const defaultDocuments = defineRule({
  ...defaultDocumentsCompiler,
  description: "Names to try in a folder, in order.",
  example: "[index.html, home.html]",
  scope: "site",
  schema,
  explain: (names) => names.join(", "),
  inspect(names, { mount, area, where }) {
    return names.flatMap((name) => {
      const withheldBy = withheldIn(mount, joinPath(area, name));
      if (withheldBy === undefined) return [];
      const text = `${where}.defaultDocuments: found "${name}", which never answers, because it is withheld (${withheldBy}); leave it out.`;
      return [{ severity: "warning", text, key: `${where}.defaultDocuments` }];
    });
  },
});
