import { compileMount, compileOutside, type Layer } from "../config/compile.js";
import type { SiteConfig } from "../config/config-types.js";
import { defineSite, type SiteDefinition } from "../config/define.js";
import { compileMoved } from "../config/moved/compile.js";
import { findMovedProblems } from "../config/moved/moved.js";
import { trimSlashes } from "../config/paths.js";
import { SiteError, type Told } from "../config/site-error.js";
import { WHOLE_RULES } from "../config/whole-rules.js";
import { answerListing } from "../core/answer/listing-answer.js";
import type { Pause } from "../core/listing/order.js";
import { Memory } from "../core/memory/memory.js";
import { respond, respondFailed, respondWithFile } from "../core/respond.js";
import type { Mount } from "../core/rules/mount.js";
import { type AddressRule, formatAddress } from "../core/rules/moved.js";
import { PrefixTree } from "../core/rules/prefix-tree.js";
import { type CompiledSite, openSiteMemory } from "../core/site.js";
import { openEarlier } from "./earlier.js";
import { explainRequest } from "./explain.js";
import { asDownload, checkFilePath, warnOfMissing } from "./file-route.js";
import { foldHeaderNames } from "./header-names.js";
import { inspectSite } from "./inspect.js";
import { addKeeper } from "./keeper.js";
import { openNames } from "./open-names.js";
import { makePause } from "./pause.js";
import { emitWarning, openCompressor, openSource, readTypes } from "./platform.js";
import type { SealedMounts } from "./seal.js";
import { walkServed } from "./served-files.js";
import { listAppShells } from "./shells.js";
import type { OpenOptions, Site, SiteMoved } from "./site.js";

/** The site as its users hold it. */
export function assembleSite(compiled: CompiledSite, warnings: string[]): Site {
  const site = makeSite(compiled, warnings);
  addKeeper(site, compiled);
  return site;
}

export interface CompileOptions extends Pick<OpenOptions, "seal"> {
  /** Seals long files with the digests of their pieces, for a seal that is written. */
  readonly pieces?: boolean;
  /** Looks for rules without effect, and for files that they name and that are not there (default true). */
  readonly inspects?: boolean;
}

/** From a definition to what answers, with its warnings. */
export async function compileSite(
  definition: SiteDefinition | SiteConfig,
  { seal = false, pieces = false, inspects = true }: CompileOptions,
): Promise<{ compiled: CompiledSite; warnings: Told[]; file: string | undefined }> {
  const { config, file } = isDefinition(definition) ? definition : defineSite(definition);
  const memory = new Memory();
  const { list, problems, warnings: ofMounts } = await openMounts(config, memory);
  if (problems.length > 0) throw new SiteError(problems, file);

  const moved = compileMoved(config);
  const wrongAddresses = findMovedProblems(moved);
  if (wrongAddresses.length > 0) throw new SiteError(wrongAddresses, file);
  const findings = inspects ? await inspectSite(config, list) : [];
  const errors = findings.filter(({ severity }) => severity === "error");
  if (errors.length > 0) throw new SiteError(errors, file);

  const pause = makePause();
  const sealed = seal === false ? undefined : await sealMounts(config, list, { seal, pieces }, pause);
  const mounts = new PrefixTree<Mount>();
  for (const mount of sealed?.mounts ?? list) mounts.set(mount.at, mount);
  const compiled: CompiledSite = {
    mounts,
    outside: compileOutside(config, { ...WHOLE_RULES, outermost: [] }),
    moved,
    remembered: openSiteMemory(memory),
    answerListing,
    compressor: await openCompressor(memory),
    pause,
    now: Date.now,
  };
  const warnings = [...ofMounts, ...findings, ...(sealed?.warnings ?? []).map((text) => ({ text }))];
  return { compiled, warnings, file };
}

// Mounts whose files come from a source of the developer's own stay as they are.
async function sealMounts(
  config: SiteConfig,
  list: readonly Mount[],
  { seal, pieces }: { readonly seal: true | string; readonly pieces: boolean },
  pause: Pause,
): Promise<SealedMounts> {
  const { sealFromFile, sealNow } = await import("./seal.js");
  const folders = list.filter((_, index) => config.mounts[index]!.folder !== undefined);
  const { mounts, warnings } =
    typeof seal === "string"
      ? await sealFromFile(folders, seal, pause)
      : await sealNow(folders, pause, { pieces });
  return { mounts: list.map((mount) => mounts[folders.indexOf(mount)] ?? mount), warnings };
}

function makeSite(compiled: CompiledSite, warnings: string[]): Site {
  const failed: Site["respondFailed"] = (request, cause, isTemporary) =>
    respondFailed(compiled, foldHeaderNames(request), cause, isTemporary);
  return {
    mounts: compiled.mounts.values().map((mount) => ({
      at: `/${mount.at}`,
      source: mount.source.name,
      appShells: listAppShells(mount),
    })),
    warnings,
    moved: compiled.moved.rules.map(tellRule),
    memory: compiled.remembered.memory,
    respond: (request) => respond(compiled, foldHeaderNames(request)),
    respondFailed: failed,
    file(path, { saveAs } = {}) {
      checkFilePath(path, compiled);
      warnOfMissing(path, compiled).then((text) => {
        if (text === undefined || warnings.includes(text)) return;
        warnings.push(text);
        emitWarning(text);
      }, ignoreFailure);
      const name = saveAs === true ? path : saveAs;
      return {
        memory: compiled.remembered.memory,
        async respond(request) {
          const answer = await respondWithFile(compiled, path.slice(1), foldHeaderNames(request));
          return name === undefined ? answer : asDownload(answer, name);
        },
        respondFailed: failed,
      };
    },
    files: () => walkServed(compiled),
    explain: (request, options) => explainRequest(compiled, foldHeaderNames(request), options),
  };
}

function tellRule(rule: AddressRule): SiteMoved {
  const from = formatAddress(rule.from, rule.folder);
  if (rule.to === undefined) return { from, to: undefined, temporary: false, keepsQuery: false };
  const { to, temporary, keepsQuery } = rule;
  const address = to.kind === "elsewhere" ? to.url : formatAddress(to.path, to.slash) + to.rest;
  return { from, to: address, temporary, keepsQuery };
}

// A source of the developer's that rejects is met by the requests.
function ignoreFailure(): void {}

async function openMounts(
  config: SiteConfig,
  memory: Memory,
): Promise<{ list: Mount[]; problems: Told[]; warnings: Told[] }> {
  const { types, problems: ofTypes } = await readTypes(config);
  const problems: Told[] = ofTypes.map((text) => ({ text, key: "typesFile" }));
  const warnings: Told[] = [];
  const list: Mount[] = [];
  for (const [index, mount] of config.mounts.entries()) {
    const place = `mounts[${index}]`;
    const opened = await openSource(mount, place, config.base, memory);
    const names = await openNames(mount, place, config.base, memory);
    if (typeof names === "string") problems.push({ text: names, key: `${place}.fingerprints` });
    if (typeof opened === "string") problems.push({ text: opened, key: `${place}.folder` });
    else if (typeof names !== "string") {
      const { earlier, ...told } = await openEarlier(mount, place, config.base, memory);
      const key = `${place}.earlierReleases`;
      problems.push(...told.problems.map((text) => ({ text, key })));
      warnings.push(...told.warnings.map((text) => ({ text, key })));
      list.push({
        ...compileMount(config, index, opened, { ...WHOLE_RULES, outermost: typesLayer(config, types) }),
        ...(earlier && { earlier }),
        names,
      });
    }
  }
  return { list, problems: [...findClashes(config), ...problems], warnings };
}

function typesLayer({ typesFile = "" }: SiteConfig, types: ReadonlyMap<string, string>): Layer[] {
  if (types.size === 0) return [];
  const mediaTypes = Object.fromEntries([...types].map(([ext, type]) => [`.${ext}`, type]));
  return [
    {
      where: { words: `typesFile ${typesFile}`, place: undefined, by: "developer" },
      rules: { mediaTypes },
    },
  ];
}

/** True for a configuration that was checked, by `defineSite` or `loadConfigFile`. */
export function isDefinition(value: SiteDefinition | SiteConfig): value is SiteDefinition {
  return typeof value === "object" && value !== null && "config" in value;
}

function findClashes(config: SiteConfig): Told[] {
  const seen = new Map<string, number>();
  return config.mounts.flatMap((mount, index) => {
    const at = trimSlashes(mount.at ?? "/");
    const first = seen.get(at);
    seen.set(at, first ?? index);
    if (first === undefined) return [];
    const key = `mounts[${index}].at`;
    return [
      {
        key,
        text: `${key}: found "/${at}", where mounts[${first}] already is; give one of them another prefix, or serve both from one folder.`,
      },
    ];
  });
}
