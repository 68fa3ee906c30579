import * as z from "zod";
import { withheldIn } from "../../core/rules/mount.js";
import { innermost } from "../rule.js";
import { joinPath, reject } from "../values.js";

const fileName = z.string().check((payload) => {
  const name = payload.value;
  if (name === "" || name === "." || name === ".." || /[/\\\0]/.test(name))
    reject(payload, 'a default document is a file name without a folder: write it as "index.html"');
});

export const defaultDocuments = innermost({
  description: "Names tried in a directory, in order.",
  scope: "site",
  schema: z.array(fileName),
  default: ["index.html"],
  compile: (names) => names,
  explain: (names) => names.join(", "),
  inspect(names, { mount, area, where }) {
    return names.flatMap((name) => {
      const withheldBy = withheldIn(mount, joinPath(area, name));
      if (withheldBy === undefined) return [];
      const text = `${where}.defaultDocuments: found "${name}", which never answers, since it is withheld (${withheldBy}); leave it out.`;
      return [{ severity: "warning", text }];
    });
  },
});
