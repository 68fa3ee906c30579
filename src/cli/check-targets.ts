import { extname, resolve } from "node:path";
import { loadConfigFile } from "../adapters/node.js";
import { shorten } from "../config/config-file.js";
import { defineSite, type SiteDefinition } from "../config/define.js";
import { SiteError } from "../config/problems.js";
import { suggestName } from "../core/text/suggest.js";
import { openSite } from "../site/open.js";
import type { ServedEntry } from "../site/served-files.js";
import type { Site } from "../site/site.js";
import type { Asker } from "../testing/ask/ask.js";
import { askSite } from "../testing/ask/in-process.js";
import { askServer, parseAddress } from "../testing/ask/server.js";
import type { Case } from "../testing/case.js";
import { type Sample, takeSample } from "../testing/discover/sample.js";
import { expandCases } from "../testing/format/expand.js";
import { type Expectations, loadExpectations } from "../testing/format/load.js";
import type { PackUse } from "../testing/format/schema.js";
import { PACK_NAMES, type PackName } from "../testing/packs/names.js";
import { makePack, makePackCases } from "../testing/packs/packs.js";
import type { Run } from "../testing/reports/run.js";
import { type RunOptions, runCases } from "../testing/run.js";
import { chooseDefinition } from "./definition.js";

/** What the command line asks to be checked, and where. */
export interface CheckRequest {
  /** Expectations files and names of packs. */
  readonly words: readonly string[];
  readonly config?: string;
  readonly folder?: string;
  readonly against?: string;
  readonly header?: Readonly<Record<string, string>>;
  readonly set?: Readonly<Record<string, string>>;
  readonly path?: readonly string[];
  readonly only?: string;
  readonly concurrency?: number;
  /** In milliseconds. */
  readonly timeout?: number;
  readonly retries?: number;
  readonly strict?: boolean;
  readonly insecureTls?: true;
}

/** A file's cases, or packs, with whom to ask. */
export interface Target {
  readonly title: string;
  readonly asker: Asker;
  /** Files and folders that the outcome depends on. */
  readonly watched: readonly string[];
  /** Making the cases asks the site. */
  readonly looksFirst: boolean;
  /** Made when it is its turn: packs look the site over first. */
  makeCases(): Promise<Case[]>;
}

/** Reads what is to be checked. Rejects with a SiteError before anything is asked. */
export async function readTargets(request: CheckRequest): Promise<Target[]> {
  const { words, against } = request;
  const places = [against && "--against", request.config && "--config", request.folder && "--folder"].filter(
    Boolean,
  );
  if (places.length > 1 && !(against && request.config && !request.folder)) {
    throw new SiteError([
      `Found both ${places.join(" and ")}; cases are put to one of them: leave the other out.`,
    ]);
  }
  const packs = words.filter((word): word is PackName => (PACK_NAMES as readonly string[]).includes(word));
  const files = words.filter((word) => !packs.includes(word as PackName));
  for (const word of files) checkWord(word);
  const targets: Target[] = [];
  for (const file of files) targets.push(await readFileTarget(file, request));
  if (packs.length > 0) targets.push(await readPackTarget(packs, request));
  return targets;
}

// A word without an extension is more likely a pack misspelt than a file.
function checkWord(word: string): void {
  const near = suggestName(word, PACK_NAMES);
  if (extname(word) === "" && !word.includes("/") && near !== undefined)
    throw new SiteError([`Found ${JSON.stringify(word)}, which is no pack; write ${near}.`]);
}

async function readFileTarget(path: string, request: CheckRequest): Promise<Target> {
  const given = request.against;
  const address = given === undefined ? undefined : baseOf(given, "--against");
  const expectations = await loadExpectations(path, { address, variables: request.set });
  const { file, written } = expectations;
  const site = await openOwnSite(expectations, request);
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
  const listServed = site === undefined ? undefined : remember(site.site);
  const cases = await expandCases(expectations, listServed).catch(async (error: unknown) => {
    await asker.close();
    throw error;
  });
  return {
    title: file,
    asker,
    watched: [resolve(path), ...(site?.watched ?? [])],
    looksFirst: (written.packs ?? []).length > 0,
    makeCases: async () => [
      ...cases,
      ...(await makePackUses(written.packs ?? [], asker, site?.site, request.path ?? [])),
    ],
  };
}

/** The site of a file: what the command line says, or the configuration that the file names. */
async function openOwnSite(
  { config, written }: Expectations,
  request: CheckRequest,
): Promise<{ site: Site; watched: string[] } | undefined> {
  const path = request.config ?? (request.folder === undefined ? config : undefined);
  if (path === undefined && request.folder === undefined) return undefined;
  // Over the network the files matter to `each` and to packs only; elsewhere they may not even be there.
  const needsFiles =
    (written.packs ?? []).length > 0 ||
    [...(written.cases ?? []), ...(written.groups ?? []).flatMap(({ cases }) => cases)].some(
      ({ each }) => each !== undefined,
    );
  if (request.against !== undefined && !needsFiles) return undefined;
  if (path === undefined)
    return openDefinition(defineSite({ base: process.cwd(), mounts: [{ folder: request.folder! }] }));
  return openDefinition(await loadConfigFile(path), resolve(path));
}

async function readPackTarget(packs: readonly PackName[], request: CheckRequest): Promise<Target> {
  const { against, config, folder, path = [] } = request;
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
    makeCases: () => makePackCases(packs, asker, { site: opened?.site, paths: path }),
  };
}

async function makePackUses(
  uses: readonly PackUse[],
  asker: Asker,
  site: Site | undefined,
  more: readonly string[],
): Promise<Case[]> {
  const cases: Case[] = [];
  const samples = new Map<string, Sample>();
  for (const use of uses) {
    const name = typeof use === "string" ? use : use.pack;
    const paths = [...(typeof use === "string" ? [] : (use.paths ?? [])), ...more];
    // Packs that look at the same addresses share one look.
    const sample = samples.get(paths.join(" ")) ?? (await takeSample(asker, { site, paths }));
    samples.set(paths.join(" "), sample);
    cases.push(...makePack(name, sample, paths));
  }
  return cases;
}

async function openDefinition(
  definition: SiteDefinition,
  file?: string,
): Promise<{ site: Site; watched: string[] }> {
  const { config } = definition;
  const base = config.base === undefined ? process.cwd() : String(config.base);
  const folders = config.mounts.flatMap(({ folder }) =>
    folder === undefined || base.startsWith("file:") ? [] : [resolve(base, folder)],
  );
  return {
    site: await openSite(definition),
    watched: [...(file === undefined ? [] : [resolve(file)]), ...folders],
  };
}

function remember(site: Site): () => Promise<readonly ServedEntry[]> {
  let listed: Promise<readonly ServedEntry[]> | undefined;
  return () => {
    listed ??= listServed(site);
    return listed;
  };
}

async function listServed(site: Site): Promise<readonly ServedEntry[]> {
  const entries: ServedEntry[] = [];
  for await (const entry of site.files()) entries.push(entry);
  return entries;
}

function baseOf(address: string, where: string): string {
  const url = parseAddress(address, where);
  return url.origin + url.pathname.replace(/\/$/, "");
}

function serverOptions({ header, timeout, concurrency, insecureTls }: CheckRequest, where: string) {
  return { headers: header, timeoutMs: timeout, concurrency: concurrency || undefined, insecureTls, where };
}

/** Told of a run as it begins and ends; `end` gives true to run nothing more. */
export interface RunListener {
  /** A site is looked over first. */
  look(about: string): void;
  begin(cases: number): void;
  end(run: Run): boolean;
}

/** Runs the targets one after the other. */
export async function runTargets(
  targets: readonly Target[],
  options: RunOptions,
  listener: RunListener,
  only: string | undefined,
): Promise<void> {
  for (const { title, asker, looksFirst, makeCases } of targets) {
    if (options.signal?.aborted) return;
    const startedAt = Date.now();
    const started = performance.now();
    if (looksFirst) listener.look(asker.about);
    const cases = filterCases(await lookAround(title, asker, makeCases), only);
    if (cases.length === 0) continue;
    listener.begin(cases.length);
    const results = await runCases(cases, asker, options);
    const milliseconds = performance.now() - started;
    const { about, address } = asker;
    const inProcess = asker.explain !== undefined;
    if (listener.end({ title, about, address, inProcess, startedAt, milliseconds, results })) return;
  }
}

// A site that does not answer at all cannot be looked over: that is no failed case but work that cannot be done.
async function lookAround(title: string, asker: Asker, makeCases: Target["makeCases"]): Promise<Case[]> {
  try {
    return await makeCases();
  } catch (error) {
    if (error instanceof SiteError) throw error;
    throw new SiteError([`${shorten(title)}: ${asker.about} does not answer: ${(error as Error).message}.`]);
  }
}

function filterCases(cases: readonly Case[], only: string | undefined): readonly Case[] {
  if (only === undefined) return cases;
  const text = only.toLowerCase();
  return cases.filter(({ name, group = "" }) => `${group}: ${name}`.toLowerCase().includes(text));
}
