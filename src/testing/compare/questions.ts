import type { Question } from "../ask/ask.js";
import { NAVIGATION } from "../ask/ask.js";
import { foldersOf, NO_SUCH_NAME, type Sample } from "../discover/sample.js";

/** More of a file is not compared, in bytes. */
const READ_AT_MOST = 2 * 1024 * 1024;
/** What a browser takes, so that codings are compared too. */
const BROWSER_CODINGS = "gzip, br, zstd";

/**
 * What to ask two sites for a comparison, where no file says so: everything that was found of the first, an address into each
 * application, and what is not there, as a page and as a script.
 */
export function makeQuestions(sample: Sample): Question[] {
  const get = (path: string, headers: Record<string, string>): Question => ({ method: "GET", path, headers });
  const codings = { "Accept-Encoding": BROWSER_CODINGS };
  const found = sample.resources.map(({ path, kind }) =>
    get(path, kind === "document" ? { ...NAVIGATION, ...codings } : codings),
  );
  const places = new Set(["/", ...sample.directories, ...sample.shells.map(({ under }) => under)]);
  const missing = [...places].flatMap((under) => [
    get(`${under}${NO_SUCH_NAME}/42`, { ...NAVIGATION }),
    get(`${under}${NO_SUCH_NAME}.js`, { Accept: "*/*", "Sec-Fetch-Dest": "script" }),
  ]);
  const withoutSlash = sample.directories.flatMap((path) =>
    path === "/" ? [] : [get(path.slice(0, -1), { ...NAVIGATION })],
  );
  const known = new Set(sample.resources.map(({ path }) => path));
  const linked = sample.links.mentions.flatMap(({ to }) =>
    known.has(to) ? [] : [{ ...get(to, codings), readAtMost: READ_AT_MOST }],
  );
  const folders = foldersOf(sample).map((path) => get(path, { ...NAVIGATION }));
  return [...found, ...linked, ...withoutSlash, ...folders, ...missing];
}

/** Two that are asked the same, though written otherwise, are one. */
export function withoutRepeats(questions: readonly Question[]): Question[] {
  const seen = new Map(questions.map((question) => [JSON.stringify(question), question]));
  return [...seen.values()];
}
