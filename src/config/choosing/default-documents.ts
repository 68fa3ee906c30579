import * as z from "zod";
import { lookAt } from "../../core/resolve/look.js";
import { judgeNames } from "../../core/resolve/walk.js";
import { selectRules, withheldIn } from "../../core/rules/mount.js";
import { joinPath } from "../../core/text/path.js";
import { findNowhere } from "../nowhere.js";
import { defineRule, type Finding } from "../rule.js";
import { reject } from "../values.js";
import { defaultDocumentsCompiler } from "./compile.js";

/** Names that people give to the page of a folder. */
export const PAGE_NAMES = /^(?:index|home|default|main|start|welcome)\.(?:html?|xhtml|php)$/i;

/** How many names are looked at for a front page of another name. */
const NAMES_AT_MOST = 5000;

// A program is not sent as a page.
const isPage = (name: string): boolean => PAGE_NAMES.test(name) && !/php$/i.test(name);

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
    const { defaultDocuments: names, listing, appShell, whenMissing, origins } = selectRules(mount, "");
    // An application behind the site may have a front page of its own.
    const isPassed = whenMissing === "pass" && origins.whenMissing.by === "developer";
    if (listing !== undefined || appShell !== undefined || isPassed) return [];
    for (const name of names) if ((await lookAt(mount.source, name)) !== "absent") return [];
    const there = (await judgeNames(mount, "", { asks: "nothing", atMost: NAMES_AT_MOST })) ?? [];
    const only = there.find(({ name, verdict }) => verdict === "offered" && isPage(name))?.name;
    if (only === undefined) return [];
    const key = `${origins.defaultDocuments.place ?? ""}`;
    const wanted = names.length === 0 ? "no default document" : `no ${names.join(" and no ")}`;
    return [
      {
        severity: "warning",
        key,
        isOfFiles: true,
        text: `The mount at /${mount.at}: nothing answers its front page (403), because its folder has ${wanted}, but ${only} is there; write defaultDocuments: [${[only, ...names].join(", ")}].`,
      },
    ];
  },
});
