import { AddressNames } from "../../reading/builds/by-address.js";
import type { Page } from "../../reading/pages/element.js";
import { findReferences } from "../../reading/pages/references.js";
import type { Case } from "../case.js";
import { pageOf } from "../checks/content.js";
import type { Sample, Sampled } from "../discover/sample.js";
import { demand, makeCase } from "./pack.js";

/** What each page loads of the names that change with each build, by the name without what changes. */
type Loaded = ReadonlyMap<string, string>;

/** A page of another build than the rest: it loads another file of a name that all others load. */
export function findOtherBuilds({ resources, address }: Sample): Case[] {
  const pages = resources.filter(({ kind }) => kind === "document");
  const loaded = pages.map(
    (page) => [page, listLoaded(pageOf(page.reply), address + page.path, address)] as const,
  );
  const counts = new Map<string, Map<string, number>>();
  for (const [, names] of loaded)
    for (const [pattern, url] of names) {
      const known = counts.get(pattern) ?? new Map<string, number>();
      counts.set(pattern, known.set(url, (known.get(url) ?? 0) + 1));
    }
  return loaded.flatMap(([page, names]) =>
    [...names].flatMap(([pattern, url]) => {
      const known = counts.get(pattern)!;
      const [most, count] = [...known].sort((a, b) => b[1] - a[1])[0]!;
      // Of two pages nobody knows which one is old.
      return known.size === 2 && count >= 2 && most !== url && known.get(url) === 1
        ? [tell(page, url, most)]
        : [];
    }),
  );
}

function tell(page: Sampled, url: string, most: string): Case {
  const check = demand("build", `${most}, as the other pages load it`, ({ reply, address }) =>
    [...listLoaded(pageOf(reply), address + page.path, address).values()].includes(url) ? url : undefined,
  );
  return makeCase(
    `${page.path} is of the same build as the other pages`,
    page.question,
    [check],
    "a page of an older build loads the files of that build, until they are gone",
  );
}

function listLoaded(page: Page, base: string, address: string): Loaded {
  const urls = findReferences(page, base)
    .filter(
      ({ url, element }) => (element === "script" || element === "link") && url.startsWith(`${address}/`),
    )
    .map(({ url }) => url.slice(address.length));
  const names = new AddressNames(urls);
  const found = new Map<string, string>();
  const twice = new Set<string>();
  for (const url of new Set(urls)) {
    const pattern = names.patternOf(url);
    if (pattern === undefined) continue;
    if (found.has(pattern)) twice.add(pattern);
    found.set(pattern, url);
  }
  // Chunks may share a name in one build.
  for (const pattern of twice) found.delete(pattern);
  return found;
}
