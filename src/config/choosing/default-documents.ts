import * as z from "zod";
import { lookAt } from "../../core/resolve/look.js";
import { judgeNames } from "../../core/resolve/walk.js";
import { selectRules, withheldIn } from "../../core/rules/mount.js";
import { joinPath } from "../../core/text/path.js";
import { findNowhere } from "../nowhere.js";
import { defineRule, type Finding } from "../rule.js";
import { reject } from "../values.js";
import { defaultDocumentsCompiler } from "./compile.js";

/** So many names are looked at for a front page of another name. */
const NAMES_AT_MOST = 5000;

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
  async inspect(names, { mount, area, where }) {
    const key = `${where}.defaultDocuments`;
    const withheld = names.flatMap((name): Finding[] => {
      const withheldBy = withheldIn(mount, joinPath(area, name));
      if (withheldBy === undefined) return [];
      const text = `${key}: found "${name}", which never answers, because it is withheld (${withheldBy}); leave it out.`;
      return [{ severity: "warning", text, key }];
    });
    const offered = names.filter((name) => withheldIn(mount, joinPath(area, name)) === undefined);
    const nowhere = await findNowhere(mount, area, offered, (name, document) => name === document);
    return [
      ...withheld,
      ...nowhere.map((name): Finding => {
        const text = `${key}: found "${name}", but no folder has a file of that name; correct it, or leave it out.`;
        return { severity: "warning", text, key };
      }),
    ];
  },
  async inspectMount(mount) {
    const { defaultDocuments: names, listing, appShell, origins } = selectRules(mount, "");
    if (listing !== undefined || appShell !== undefined) return [];
    for (const name of names) if ((await lookAt(mount.source, name)) !== "absent") return [];
    const judged = (await judgeNames(mount, "", { asks: "nothing", atMost: NAMES_AT_MOST })) ?? [];
    const there = judged.filter(({ verdict }) => verdict === "offered").map(({ name }) => name);
    const pages = there.filter((name) => /\.x?html?$/i.test(name));
    const other = pages.find((name) => /^(?:index|home|default|main|start|welcome)\./i.test(name));
    const only = other ?? (pages.length === 1 ? pages[0] : undefined);
    if (only === undefined) return [];
    const key = `${origins.defaultDocuments.place ?? ""}`;
    const wanted = names.length === 0 ? "no default document" : `no ${names.join(" and no ")}`;
    return [
      {
        severity: "warning",
        key,
        isOfFiles: true,
        text: `The mount at /${mount.at}: its front page answers 403, because its folder has ${wanted}, but ${only} lies there; write defaultDocuments: [${[...names, only].join(", ")}].`,
      },
    ];
  },
});
