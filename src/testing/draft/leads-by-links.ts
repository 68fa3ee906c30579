import { AddressNames } from "../../reading/builds/by-address.js";
import { extensionOf } from "../../reading/contents/kinds.js";
import type { Asker } from "../ask/ask.js";
import { foldersOf, takeSample } from "../discover/sample.js";
import { BROWSER, findAlike, get, isRedirect, type Lead, leadsToNavigation, ok, PAGE } from "./leads.js";
import { groupOfKind, isNeverMeant, nameKind } from "./names.js";

const FOLDERS_AT_MOST = 3;

/** One example of each kind of thing that links lead to. */
export async function findByLinks(asker: Asker, paths: readonly string[]): Promise<Lead[]> {
  const sample = await takeSample(asker, { paths });
  const addresses = sample.resources.map(({ path }) => path);
  const names = new AddressNames([...addresses, ...sample.links.mentions.map(({ to }) => to)]);
  const seen = new Map<string, number>();
  const files = sample.resources.flatMap(({ path, kind, fingerprinted }): Lead[] => {
    if (isNeverMeant(path)) return [];
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
    const headers = path.endsWith("/") ? PAGE : BROWSER;
    const all = fingerprinted ? findAlike(path, names, addresses) : undefined;
    return [
      {
        group: groupOfKind(kind),
        name,
        question: get(path, headers),
        wanted: ok,
        ...(all !== undefined && { all }),
      },
    ];
  });
  const slashes = sample.directories
    .filter((path) => path !== "/")
    .slice(0, 1)
    .map(
      (path): Lead => ({
        group: "redirects",
        name: "a folder without its slash redirects to the one with it",
        question: get(path.slice(0, -1)),
        wanted: isRedirect,
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
  const folders = foldersOf(sample)
    .slice(0, FOLDERS_AT_MOST)
    .map(
      (path): Lead => ({
        group: "directory listings",
        name: `the answer for the folder ${path}`,
        question: get(path, PAGE),
      }),
    );
  return [
    ...files,
    ...slashes,
    ...folders,
    ...shells,
    ...(shells.length === 0 ? leadsToNavigation("/", "") : []),
  ];
}
