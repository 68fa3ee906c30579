import { existsSync } from "node:fs";
import { extname, resolve } from "node:path";
import { SiteError } from "../config/site-error.js";
import { own } from "../core/text/own.js";
import { suggestName } from "../core/text/suggest.js";
import type { Site } from "../site/site.js";
import type { Asker } from "../testing/ask/ask.js";
import { askSite } from "../testing/ask/in-process.js";
import { askServer, parseAddress } from "../testing/ask/server.js";
import type { Case } from "../testing/case.js";
import { asksFirst, prepareFileCases } from "../testing/format/file-cases.js";
import { loadExpectations } from "../testing/format/load.js";
import { PACK_NAMES, type PackName } from "../testing/packs/names.js";
import { type Looking, makePackCases } from "../testing/packs/packs.js";
import type { CheckRequest } from "./check-options.js";
import { openDefinition, openOwnSite, type Shared } from "./check-sites.js";
import { chooseDefinition } from "./definition.js";

/** A file's cases, or packs, with whom to ask. */
export interface Target {
  readonly title: string;
  readonly asker: Asker;
  /** Files and folders that the outcome depends on. */
  readonly watched: readonly string[];
  /** Making the cases asks the site. */
  readonly looksFirst: boolean;
  /** The title is an expectations file. */
  readonly inFile: boolean;
  /** Made when it is its turn: packs look the site over first. `onFound` is told how many addresses were found so far. */
  makeCases(onFound: (found: number) => void): Promise<Case[]>;
}

/** Reads what is to be checked. Rejects with a SiteError before anything is asked. */
export async function readTargets(request: CheckRequest): Promise<Target[]> {
  const { words, against } = request;
  const places = [against && "--against", request.config && "--config", request.folder && "--folder"].filter(
    Boolean,
  );
  if (places.length > 1 && !(against && request.config && !request.folder)) {
    throw new SiteError([
      `Found both ${places.join(" and ")}; cases run against one of them: leave the other out.`,
    ]);
  }
  const packs = words.filter((word): word is PackName => (PACK_NAMES as readonly string[]).includes(word));
  const files = words.filter((word) => !packs.includes(word as PackName));
  for (const word of files) checkWord(word);
  const shared: Shared = { looks: new Map(), sites: new Map() };
  const targets: Target[] = [];
  for (const file of files) targets.push(await readFileTarget(file, request, shared));
  if (packs.length > 0) targets.push(await readPackTarget(packs, request, shared));
  return targets;
}

/** Words that people bring along for what a pack looks at. */
const PACKS_BY_OTHER_WORDS: Readonly<Record<string, PackName>> = {
  404: "missing",
  cache: "caching",
  compression: "codings",
  cors: "delivery",
  csp: "protected",
  etag: "conditional",
  etags: "conditional",
  gzip: "codings",
  headers: "protected",
  mime: "types",
  redirects: "moved",
  secrets: "exposure",
  security: "protected",
  spa: "app-shell",
  traversal: "path-safety",
};

// A word without an extension is more likely a pack misspelt than a file.
function checkWord(word: string): void {
  if (extname(word) !== "" || word.includes("/") || existsSync(word)) return;
  const near = own(PACKS_BY_OTHER_WORDS, word.toLowerCase()) ?? suggestName(word, PACK_NAMES);
  const wanted = near === undefined ? `the packs are ${PACK_NAMES.join(", ")}` : `write ${near}`;
  throw new SiteError([`Found ${JSON.stringify(word)}, which is neither a pack nor a file; ${wanted}.`]);
}

async function readFileTarget(path: string, request: CheckRequest, shared: Shared): Promise<Target> {
  const given = request.against;
  const address = given === undefined ? undefined : baseOf(given, "--against");
  const expectations = await loadExpectations(path, { address, variables: request.set });
  const { file, written } = expectations;
  const site = await openOwnSite(expectations, request, shared);
  const fallback = written.against;
  if (site === undefined && given === undefined && fallback === undefined) {
    throw new SiteError([
      `${file}: names no configuration; write config: epistyle.config.yaml in it, or give --config FILE, --folder DIR or --against URL.`,
    ]);
  }
  const asker =
    given !== undefined || site === undefined
      ? askServer(
          (given ?? fallback)!,
          serverOptions(request, given === undefined ? `${file}: against` : "--against"),
        )
      : askSite(site.site);
  const makeCases = await prepareFileCases(expectations, looking(asker, site?.site, request, shared)).catch(
    async (error: unknown) => {
      await asker.close();
      throw error;
    },
  );
  return {
    title: file,
    asker,
    watched: [resolve(path), ...(site?.watched ?? [])],
    looksFirst: asksFirst(expectations, site?.site) || (written.packs ?? []).length > 0,
    inFile: true,
    makeCases,
  };
}

async function readPackTarget(
  packs: readonly PackName[],
  request: CheckRequest,
  shared: Shared,
): Promise<Target> {
  const { against, config, folder } = request;
  const opened =
    against !== undefined && config === undefined
      ? undefined
      : await openDefinition(await chooseDefinition(folder, config), config);
  const asker =
    against === undefined ? askSite(opened!.site) : askServer(against, serverOptions(request, "--against"));
  return {
    title: packs.length > 4 ? `${packs.length} packs` : packs.join(", "),
    asker,
    watched: opened?.watched ?? [],
    looksFirst: true,
    inFile: false,
    makeCases: (onFound) =>
      makePackCases(packs, { ...looking(asker, opened?.site, request, shared), onFound }),
  };
}

function looking(
  asker: Asker,
  site: Site | undefined,
  { path, methods }: CheckRequest,
  { looks }: Shared,
): Looking {
  return { asker, site, paths: path ?? [], methods: methods === true, looks };
}

function baseOf(address: string, where: string): string {
  const url = parseAddress(address, where);
  return url.origin + url.pathname.replace(/\/$/, "");
}

function serverOptions({ header, timeout, concurrency, insecureTls }: CheckRequest, where: string) {
  return { headers: header, timeoutMs: timeout, concurrency: concurrency || undefined, insecureTls, where };
}
