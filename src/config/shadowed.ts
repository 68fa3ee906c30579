import { expandBraces } from "../core/rules/pattern.js";
import { foldName } from "../core/text/fold-name.js";
import { compilePattern, type Files } from "./patterns.js";

/** Characters that no pattern of a person has, so that only a wildcard takes them. */
const [ANY, OTHER] = ["\ue000", "\ue001"];
/** What stands for files in all folders. */
const ALL = new Set(["*", "**", "**/*"]);

/**
 * True where every file of one rule is one of another's, as far as it can be told from the patterns: what it says then says nothing
 * more, or is said again.
 */
export function coversFiles(outer: Files, inner: Files): boolean {
  const outers = [outer].flat();
  return [inner].flat().every((pattern) => outers.some((one) => covers(one, pattern)));
}

function covers(outer: string, inner: string): boolean {
  if (outer === inner || ALL.has(outer)) return true;
  // A class may leave out what the examples do not have.
  if (outer === "fingerprinted" || inner === "fingerprinted" || outer.includes("[")) return false;
  const { matches } = compilePattern(outer);
  return expandBraces(inner).every((one) => {
    const paths = examplesOf(one);
    return paths?.every((path) => matches(foldName(path))) === true;
  });
}

// What a pattern means, short and long; undefined for one with choices and classes.
function examplesOf(pattern: string): string[] | undefined {
  if (/[[\]\\]|[@?*+]\(/.test(pattern)) return undefined;
  const path = pattern.replace(/^\.?\//, "").replace(/\/+$/, "");
  const isName = !pattern.replace(/\/+$/, "").includes("/");
  return [
    ["", ""],
    [ANY!, ANY!],
    [`${ANY}${OTHER}`, `${ANY}/${OTHER}`],
  ].flatMap(([name, folders]) => {
    const one = path
      .split("/")
      .flatMap((segment) =>
        segment === "**"
          ? folders === ""
            ? []
            : [folders]
          : [segment.replace(/\*+/g, name!).replaceAll("?", ANY!)],
      )
      .join("/");
    return isName ? [one, `${ANY}/${one}`] : [one];
  });
}
