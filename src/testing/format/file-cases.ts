import type { Site } from "../../site/site.js";
import type { Case } from "../case.js";
import { crawl, EVERY_LINK } from "../discover/crawl.js";
import { type Looking, makePackCases } from "../packs/packs.js";
import { expandCases, type Listed } from "./expand.js";
import type { Expectations } from "./load.js";

/**
 * Makes all cases of an expectations file: its own, and those of the packs that it names. Whoever runs a file makes its cases here. What is
 * served is told by the site, where there is one, and by its links elsewhere. Rejects with a SiteError for what the file says wrong, and with
 * an Error when the site does not answer at all.
 */
export async function makeFileCases(expectations: Expectations, looking: Looking): Promise<Case[]> {
  return (await prepareFileCases(expectations, looking))();
}

/** The same in two steps: what is wrong with the file is told before anything is asked. The second step asks. */
export async function prepareFileCases(
  expectations: Expectations,
  looking: Looking,
): Promise<(onFound?: Looking["onFound"]) => Promise<Case[]>> {
  const { site } = looking;
  const own = asksFirst(expectations, site)
    ? undefined
    : await expandCases(expectations, site && once(() => listServed(site)));
  return async (onFound = looking.onFound) => [
    ...(own ??
      (await expandCases(
        expectations,
        once(() => listByLinks({ ...looking, onFound })),
      ))),
    ...(await makePackCases(expectations.written.packs ?? [], { ...looking, onFound })),
  ];
}

/** True where making the cases asks the site. */
export function asksFirst(expectations: Expectations, site: Site | undefined): boolean {
  return site === undefined && usesEach(expectations);
}

/** True where a file asks for each file that is served. */
export function usesEach({ written }: Expectations): boolean {
  return [...(written.cases ?? []), ...(written.groups ?? []).flatMap(({ cases }) => cases)].some(
    ({ each }) => each !== undefined,
  );
}

function once<Value>(make: () => Promise<Value>): () => Promise<Value> {
  let made: Promise<Value> | undefined;
  return () => {
    made ??= make();
    return made;
  };
}

async function listServed(site: Site): Promise<readonly Listed[]> {
  const entries: Listed[] = [];
  for await (const { path, kind } of site.files()) entries.push({ path, kind });
  return entries;
}

async function listByLinks({ asker, paths = [], onFound }: Looking): Promise<readonly Listed[]> {
  const { candidates } = await crawl(asker, ["/", ...paths], EVERY_LINK, onFound);
  return candidates.flatMap(({ path }) =>
    path.includes("?")
      ? []
      : [{ path, kind: path.endsWith("/") ? ("directory" as const) : ("file" as const) }],
  );
}
