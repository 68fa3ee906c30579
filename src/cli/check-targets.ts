import { extname, resolve } from "node:path";
import { SiteError } from "../config/site-error.js";
import { suggestName } from "../core/text/suggest.js";
import type { Site } from "../site/site.js";
import type { Asker } from "../testing/ask/ask.js";
import { askSite } from "../testing/ask/in-process.js";
import { askServer, parseAddress } from "../testing/ask/server.js";
import type { Case } from "../testing/case.js";
import { takeSample } from "../testing/discover/sample.js";
import { expandCases } from "../testing/format/expand.js";
import { type Expectations, loadExpectations } from "../testing/format/load.js";
import type { PackUse } from "../testing/format/schema.js";
import { PACK_NAMES, type PackName } from "../testing/packs/names.js";
import { makePack } from "../testing/packs/packs.js";
import type { CheckRequest } from "./check-options.js";
import { listByLinks, openDefinition, openOwnSite, remember, type Shared, usesEach } from "./check-sites.js";
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

// A word without an extension is more likely a pack misspelt than a file.
function checkWord(word: string): void {
  const near = suggestName(word, PACK_NAMES);
  if (extname(word) === "" && !word.includes("/") && near !== undefined)
    throw new SiteError([`Found ${JSON.stringify(word)}, which is not a pack; write ${near}.`]);
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
  const packs = written.packs ?? [];
  // Where no configuration tells the files, the site's own links do, and they are followed when it is this file's turn.
  const byLinks = site === undefined && usesEach(expectations);
  const cases = byLinks ? undefined : await expandOrClose(expectations, site?.site, asker);
  return {
    title: file,
    asker,
    watched: [resolve(path), ...(site?.watched ?? [])],
    looksFirst: byLinks || packs.length > 0,
    inFile: true,
    makeCases: async (onFound) => [
      ...(cases ?? (await expandCases(expectations, () => listByLinks(asker, request.path ?? [], onFound)))),
      ...(await makePackUses(packs, { asker, site: site?.site, request, onFound }, shared)),
    ],
  };
}

async function expandOrClose(
  expectations: Expectations,
  site: Site | undefined,
  asker: Asker,
): Promise<Case[]> {
  return expandCases(expectations, site === undefined ? undefined : remember(site)).catch(
    async (error: unknown) => {
      await asker.close();
      throw error;
    },
  );
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
    makeCases: (onFound) => makePackUses(packs, { asker, site: opened?.site, request, onFound }, shared),
  };
}

interface PackContext {
  readonly asker: Asker;
  readonly site: Site | undefined;
  readonly request: CheckRequest;
  readonly onFound: (found: number) => void;
}

async function makePackUses(
  uses: readonly PackUse[],
  { asker, site, request, onFound }: PackContext,
  { looks }: Shared,
): Promise<Case[]> {
  const cases: Case[] = [];
  const everyLink = uses.some((use) => (typeof use === "string" ? use : use.pack) === "links");
  for (const use of uses) {
    const name = typeof use === "string" ? use : use.pack;
    const paths = [...(typeof use === "string" ? [] : (use.paths ?? [])), ...(request.path ?? [])];
    // Packs and files that look at the same addresses share one look.
    const key = JSON.stringify([asker.about, everyLink, paths]);
    const sample =
      looks.get(key) ??
      takeSample(asker, { site, paths, everyLink, methods: request.methods === true, onFound });
    looks.set(key, sample);
    cases.push(...makePack(name, await sample, paths));
  }
  return cases;
}

function baseOf(address: string, where: string): string {
  const url = parseAddress(address, where);
  return url.origin + url.pathname.replace(/\/$/, "");
}

function serverOptions({ header, timeout, concurrency, insecureTls }: CheckRequest, where: string) {
  return { headers: header, timeoutMs: timeout, concurrency: concurrency || undefined, insecureTls, where };
}
