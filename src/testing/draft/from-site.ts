import type { Site } from "../../site/open.js";
import type { ServedEntry } from "../../site/served-files.js";
import type { Asker, Question } from "../ask/ask.js";
import { readMediaType } from "../checks/content.js";
import { decideKind, extensionOf, type Kind } from "../discover/kind.js";
import { NO_SUCH_NAME, takeSample } from "../discover/sample.js";
import { describeObserved } from "./describe.js";
import type { DraftGroup, Observed } from "./observed.js";

const GROUP_OF: Readonly<Record<Kind, DraftGroup>> = {
  document: "documents",
  script: "scripts and style sheets",
  style: "scripts and style sheets",
  picture: "pictures and fonts",
  font: "pictures and fonts",
  sound: "sound and film",
  film: "sound and film",
  data: "data and downloads",
  text: "data and downloads",
  other: "data and downloads",
};

export function groupOfKind(kind: Kind): DraftGroup {
  return GROUP_OF[kind];
}

/** A thing to ask about: what it is, and how. */
interface Lead {
  readonly group: DraftGroup;
  readonly name: string;
  readonly question: Question;
  /** All files like this one, where their own names do not last. */
  readonly all?: { readonly pattern: string; readonly paths: readonly string[] };
  readonly comment?: string;
  /** Kept only with an answer like this; the first that was expected when it is undefined. */
  readonly wanted?: (status: number) => boolean;
}

/** How somebody asks who wants a page: enough to be told from a program. */
const PAGE = { Accept: "text/html" };
const BROWSER = { "Accept-Encoding": "gzip, br" };
const get = (path: string, headers: Record<string, string> = {}): Question => ({
  method: "GET",
  path,
  headers,
});

/** Asks about one example of each kind of thing that a site serves. Rejects when the site does not answer at all. */
export async function observeSite(
  asker: Asker,
  site: Site | undefined,
  paths: readonly string[],
): Promise<Observed[]> {
  const examples = site === undefined ? await findByLinks(asker, paths) : await findInTree(site);
  const leads = [
    ...paths.map((path): Lead => ({ group: "documents", name: path, question: get(path) })),
    ...examples,
    ...leadsToNothing(site),
  ];
  const observed: Observed[] = [];
  for (const lead of leads) {
    const reply = await asker.ask(lead.question);
    if (lead.wanted !== undefined && !lead.wanted(reply.status)) continue;
    const isFile = reply.status === 200 && !lead.question.path.endsWith("/");
    const kind = decideKind(readMediaType(reply.headers));
    const group = isFile && !PLACED.has(lead.group) ? groupOfKind(kind) : lead.group;
    const one: Observed = { ...lead, group, reply, live: true };
    observed.push(lead.all === undefined ? one : await widen(one, lead.all, asker));
  }
  return observed;
}

const PLACED: ReadonlySet<DraftGroup> = new Set([
  "addresses that lead elsewhere",
  "applications",
  "what is not there",
  "what must never be served",
]);
/** The comment of a file whose name is another one with the next build. */
export const NAME_CHANGES = "The name changes with the content.";
const LIKE_IT_AT_MOST = 300;

// One case for all files of a bundle, when all are answered alike.
async function widen(one: Observed, all: NonNullable<Lead["all"]>, asker: Asker): Promise<Observed> {
  const wide = { ...one, each: all.pattern };
  const wanted = JSON.stringify(describeObserved(wide));
  for (const path of all.paths) {
    const reply = await asker.ask({ ...one.question, path });
    if (JSON.stringify(describeObserved({ ...wide, reply })) !== wanted)
      return { ...one, comment: NAME_CHANGES };
  }
  return wide;
}

const ok = (status: number): boolean => status === 200;
const isError = (status: number): boolean => status >= 400 && status < 500;

async function findInTree(site: Site): Promise<Lead[]> {
  const entries: ServedEntry[] = [];
  for await (const entry of site.files()) entries.push(entry);
  return site.mounts.flatMap(({ at }) => {
    const own = entries.filter(({ mount }) => mount === at);
    const where = at === "/" ? "" : ` under ${at}`;
    const files = own.filter(({ kind }) => kind === "file");
    const directories = own.filter(({ kind }) => kind === "directory").map(({ path }) => path);
    return [
      ...leadsToDirectories(directories, where),
      ...leadsToFiles(files, where),
      ...leadsToNavigation(at, where),
    ];
  });
}

function leadsToDirectories(directories: readonly string[], where: string): Lead[] {
  const [root, ...inner] = directories;
  // Whether a directory has a document or a list is known once it is asked for.
  const open = (path: string, name: string): Lead[] => [
    { group: "documents", name, question: get(path, { Accept: "text/html" }), wanted: ok },
  ];
  const withoutSlash = (path: string): Lead => ({
    group: "addresses that lead elsewhere",
    name: `a folder without its slash leads to the one with it${where}`,
    question: get(path.slice(0, -1)),
    wanted: (status) => status >= 300 && status < 400,
  });
  return [
    ...(root === undefined ? [] : open(root, `the front page${where}`)),
    ...inner.slice(0, 12).flatMap((path) => open(path, `the folder ${path}`)),
    ...inner.slice(0, 12).map(withoutSlash),
  ];
}

function leadsToFiles(files: readonly ServedEntry[], where: string): Lead[] {
  const seen = new Set<string>();
  const leads: Lead[] = [];
  // An error page is no example of a document.
  const ordered = [...files].sort((a, b) => Number(isErrorPage(a.path)) - Number(isErrorPage(b.path)));
  for (const { path, mediaType, fingerprinted } of ordered) {
    const extension = extensionOf(path);
    const key = `${extension} ${fingerprinted}`;
    // A default document is asked for by its folder.
    if (seen.has(key) || /\/index\.x?html?$/.test(path)) continue;
    seen.add(key);
    const what = nameKind(decideKind(mediaType), extension, fingerprinted);
    const all = fingerprinted ? findLike(path, files) : undefined;
    leads.push({
      group: "data and downloads",
      name: `${what}${where}`,
      question: get(path, BROWSER),
      wanted: ok,
      ...(all !== undefined && { all }),
      ...(fingerprinted && all === undefined && { comment: NAME_CHANGES }),
    });
    if (/^\.html?$/.test(extension))
      leads.push({
        group: "documents",
        name: `the same without its extension${where}`,
        question: get(path.slice(0, -extension.length)),
        wanted: ok,
      });
  }
  return leads;
}

const NAMES: Readonly<Record<Kind, string>> = {
  document: "a document",
  script: "a script",
  style: "a style sheet",
  picture: "a picture",
  font: "a font",
  sound: "a recording",
  film: "a film",
  data: "data",
  text: "a text",
  other: "a file",
};

export function nameKind(kind: Kind, extension: string, fingerprinted: boolean): string {
  const ending = extension === "" ? "" : ` (${extension})`;
  return `${NAMES[kind]}${ending}${fingerprinted ? " with a fingerprint in its name" : ""}`;
}

// The files of the same folder with the same extension, when each has a fingerprint in its name.
function findLike(path: string, files: readonly ServedEntry[]): Lead["all"] {
  const extension = extensionOf(path);
  const folder = path.slice(0, path.lastIndexOf("/") + 1);
  const like = files.filter(
    (one) =>
      one.path.startsWith(folder) &&
      !one.path.slice(folder.length).includes("/") &&
      extensionOf(one.path) === extension,
  );
  if (like.length > LIKE_IT_AT_MOST || like.some(({ fingerprinted }) => !fingerprinted)) return undefined;
  const name = decodeURIComponent(folder.slice(1));
  // A pattern without a slash would mean such names wherever they stand.
  if (name === "" || /[*?[\]{}()!+@]/.test(name)) return undefined;
  return { pattern: `${name}*${extension}`, paths: like.map((one) => one.path) };
}

function isErrorPage(path: string): boolean {
  return /\/[45]\d\d\.[^/]*$/.test(path);
}

function leadsToNavigation(at: string, where: string): Lead[] {
  const under = at === "/" ? "/" : `${at}/`;
  return [
    {
      group: "applications",
      name: `a deep link into the application${where}`,
      question: get(`${under}${NO_SUCH_NAME}/42`, PAGE),
      wanted: ok,
    },
    {
      group: "what is not there",
      name: `a page that is not there${where}`,
      question: get(`${under}${NO_SUCH_NAME}/42`, PAGE),
      wanted: isError,
    },
    {
      group: "what is not there",
      name: `a script that is not there${where}`,
      question: get(`${under}${NO_SUCH_NAME}.js`),
      wanted: isError,
    },
  ];
}

async function findByLinks(asker: Asker, paths: readonly string[]): Promise<Lead[]> {
  const sample = await takeSample(asker, { paths });
  const seen = new Map<string, number>();
  const files = sample.resources.flatMap(({ path, kind, fingerprinted }): Lead[] => {
    const extension = extensionOf(path);
    const key = `${path.endsWith("/") ? "/" : extension} ${fingerprinted}`;
    const before = seen.get(key) ?? 0;
    if (before >= (path.endsWith("/") ? 3 : 1)) return [];
    seen.set(key, before + 1);
    const name =
      path === "/"
        ? "the front page"
        : path.endsWith("/")
          ? `the folder ${path}`
          : nameKind(kind, extension, fingerprinted);
    const headers = path.endsWith("/") ? { Accept: "text/html" } : BROWSER;
    const comment = fingerprinted ? { comment: NAME_CHANGES } : {};
    return [{ group: groupOfKind(kind), name, question: get(path, headers), wanted: ok, ...comment }];
  });
  const slashes = sample.directories
    .filter((path) => path !== "/")
    .slice(0, 1)
    .map(
      (path): Lead => ({
        group: "addresses that lead elsewhere",
        name: "a folder without its slash leads to the one with it",
        question: get(path.slice(0, -1)),
        wanted: (status) => status >= 300 && status < 400,
      }),
    );
  const shells = sample.shells.flatMap(({ under, links }) =>
    links.map(
      (link): Lead => ({
        group: "applications",
        name: `a deep link into the application under ${under}`,
        question: get(link, PAGE),
        wanted: ok,
      }),
    ),
  );
  return [...files, ...slashes, ...shells, ...(shells.length === 0 ? leadsToNavigation("/", "") : [])];
}

function leadsToNothing(site: Site | undefined): Lead[] {
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
      : [never("nothing is written", { method: "DELETE", path: "/", headers: {} })]),
  ];
}
