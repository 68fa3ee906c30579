import { AddressNames } from "../../reading/builds/by-address.js";
import { decideKind, extensionOf } from "../../reading/contents/kinds.js";
import type { ServedEntry } from "../../site/served-files.js";
import type { Site } from "../../site/site.js";
import { BROWSER, findAlike, get, isRedirect, type Lead, leadsToNavigation, ok, PAGE } from "./leads.js";
import { isNeverMeant, nameKind } from "./names.js";

/** How many files of one folder are asked for one case about all of them. */
const LIKE_IT_AT_MOST = 300;

/** One example of each kind of thing among the files of each mount. */
export async function findInTree(site: Site): Promise<Lead[]> {
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
    { group: "documents", name, question: get(path, PAGE), wanted: ok },
  ];
  const withoutSlash = (path: string): Lead => ({
    group: "redirects",
    name: `a folder without its slash redirects to the one with it${where}`,
    question: get(path.slice(0, -1)),
    wanted: isRedirect,
  });
  return [
    ...(root === undefined ? [] : open(root, `the front page${where}`)),
    ...inner.slice(0, 12).flatMap((path) => open(path, `the folder ${path}`)),
    ...inner.slice(0, 12).map(withoutSlash),
  ];
}

function leadsToFiles(files: readonly ServedEntry[], where: string): Lead[] {
  const paths = files.map(({ path }) => path);
  const names = new AddressNames(paths);
  const seen = new Set<string>();
  const leads: Lead[] = [];
  // An error page is no example of a document.
  const ordered = [...files].sort((a, b) => Number(isErrorPage(a.path)) - Number(isErrorPage(b.path)));
  for (const { path, mediaType, fingerprinted } of ordered) {
    const extension = extensionOf(path);
    const key = `${extension} ${fingerprinted}`;
    // A default document is asked for by its folder.
    if (isNeverMeant(path) || seen.has(key) || /\/index\.x?html?$/.test(path)) continue;
    seen.add(key);
    const what = nameKind(decideKind(mediaType), extension, fingerprinted);
    const all = fingerprinted ? (findLike(path, files) ?? findAlike(path, names, paths)) : undefined;
    leads.push({
      group: "data and downloads",
      name: `${what}${where}`,
      question: get(path, BROWSER),
      wanted: ok,
      ...(all !== undefined && { all }),
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
