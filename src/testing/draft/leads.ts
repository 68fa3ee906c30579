import type { AddressNames } from "../../reading/builds/by-address.js";
import { extensionOf } from "../../reading/contents/kinds.js";
import type { Site } from "../../site/site.js";
import type { Question } from "../ask/ask.js";
import { NO_SUCH_NAME } from "../discover/sample.js";
import type { DraftGroup } from "./observed.js";

/** A thing to ask about: what it is, and how. */
export interface Lead {
  readonly group: DraftGroup;
  readonly name: string;
  readonly question: Question;
  /** All files like this one, where their own names do not last. */
  readonly all?: { readonly pattern: string; readonly paths: readonly string[] };
  readonly comment?: string;
  /** Kept only with an answer like this; undefined keeps any. */
  readonly wanted?: (status: number) => boolean;
}

/** All files that are called like a fingerprinted one, but for the digest; undefined for one without a fingerprint. */
export function findAlike(path: string, names: AddressNames, all: readonly string[]): Lead["all"] {
  const pattern = names.patternOf(path);
  if (pattern === undefined) return undefined;
  const folder = path.slice(0, path.lastIndexOf("/") + 1);
  const extension = extensionOf(path);
  const near = all.filter((one) => one.startsWith(folder) && one.endsWith(extension));
  const paths = near.filter((one) => names.patternOf(one) === pattern).slice(0, ALIKE_AT_MOST);
  return { pattern, paths };
}

/** How many files are asked for one case about all of them. */
const ALIKE_AT_MOST = 300;

/** How somebody asks who needs a page: enough to be told from a program. */
export const PAGE = { Accept: "text/html" };
/** What a browser takes: it shows what is compressed. */
export const BROWSER = { "Accept-Encoding": "gzip, br" };
export const get = (path: string, headers: Record<string, string> = {}): Question => ({
  method: "GET",
  path,
  headers,
});

export const ok = (status: number): boolean => status === 200;
export const isRedirect = (status: number): boolean => status >= 300 && status < 400;
const isError = (status: number): boolean => status >= 400 && status < 500;

/** What a name that nothing has is answered with, under a prefix: the application, or an error. */
export function leadsToNavigation(at: string, where: string): Lead[] {
  const under = at === "/" ? "/" : `${at}/`;
  return [
    {
      group: "applications",
      name: `a deep link into the application${where}`,
      question: get(`${under}${NO_SUCH_NAME}/42`, PAGE),
      wanted: ok,
    },
    {
      group: "missing files",
      name: `a page that does not exist${where}`,
      question: get(`${under}${NO_SUCH_NAME}/42`, PAGE),
      wanted: isError,
    },
    {
      group: "missing files",
      name: `a script that does not exist${where}`,
      question: get(`${under}${NO_SUCH_NAME}.js`),
      wanted: isError,
    },
  ];
}

/** What must be refused, whatever else a site does. */
export function leadsToNothing(site: Site | undefined): Lead[] {
  const never = (name: string, question: Question): Lead => ({
    group: "what must never be served",
    name,
    question,
    wanted: isError,
  });
  return [
    never("version control", get("/.git/HEAD")),
    never("an environment file", get("/.env")),
    never("what is above the folder", get("/%2e%2e/package.json")),
    ...(site === undefined
      ? []
      : [never("files cannot be written", { method: "DELETE", path: "/", headers: {} })]),
  ];
}
