import type { RuleInForce } from "../core/explain/trace.js";
import type { Mount } from "../core/rules/mount.js";
import { PrefixTree } from "../core/rules/prefix-tree.js";
import type { Rules, RuleValues } from "../core/rules/rules.js";
import type { FileSource } from "../core/source.js";
import { DEFAULT_ORIGIN, keyAt, type Origin } from "../core/text/origin.js";
import type { Said } from "./compiler.js";
import type { Compilers } from "./compilers.js";
import type { MountConfig, RulesConfig, SiteConfig } from "./config-types.js";
import { KINDS, type Kind } from "./kinds.js";
import { isWithin, trimSlashes } from "./paths.js";

type RuleName = keyof RuleValues;

/** One place that says rules. */
export interface Layer {
  readonly where: Origin;
  readonly rules: RulesConfig;
}

/** What a mount is compiled with: the same for every mount of a site. */
export interface CompileTools {
  readonly compilers: Compilers;
  /** What goes before everything that is written, such as the types of the system's own file. */
  readonly outermost: readonly Layer[];
  /** Tells what is in force at a place, where somebody asks for it. */
  readonly describe: (values: RuleValues, origins: Rules["origins"]) => RuleInForce[];
}

/** Compiles a mount: every area gets all its rules, so that a request looks up one place. */
export function compileMount(
  site: SiteConfig,
  index: number,
  source: FileSource,
  tools: CompileTools,
): Mount {
  const config = site.mounts[index]!;
  const where = writtenAt(`mounts[${index}]`);
  const kind = config.kind ?? "pages";
  const layers: Layer[] = [
    ...tools.outermost,
    kindLayer(kind),
    siteLayer(site),
    { where, rules: rulesOf(config) },
  ];
  const areas = new PrefixTree<Rules>();
  areas.set("", compileRules("", layers, tools));
  const written = Object.entries(config.areas ?? {}).map(([key, rules]) => ({
    path: trimSlashes(key),
    layer: { where: writtenAt(`${where.words}.areas[${JSON.stringify(key)}]`), rules },
  }));
  for (const { path } of written) {
    const enclosing = written
      .filter((other) => isWithin(path, other.path))
      .sort((a, b) => a.path.length - b.path.length)
      .map(({ layer }) => layer);
    areas.set(path, compileRules(path, [...layers, ...enclosing], tools));
  }
  return { at: trimSlashes(config.at ?? "/"), source, areas };
}

/** Compiles the rules of what no mount covers: those that are said for the whole site. */
export function compileOutside(site: SiteConfig, tools: CompileTools): Rules {
  return compileRules("", [siteLayer(site)], tools);
}

function siteLayer({
  base: _base,
  mounts: _mounts,
  typesFile: _types,
  moved: _moved,
  gone: _gone,
  refuse: _refuse,
  budget: _budget,
  ...rules
}: SiteConfig): Layer {
  return { where: { words: "site", place: "", by: "developer" }, rules };
}

// That of pages is what holds where nobody says a kind.
function kindLayer(kind: Kind): Layer {
  const by = kind === "pages" ? "default" : "kind";
  return { where: { words: `kind ${kind}`, place: undefined, by }, rules: KINDS[kind] };
}

const writtenAt = (place: string): Origin => ({ words: place, place, by: "developer" });

function rulesOf({
  at,
  folder,
  kind,
  links,
  areas,
  source,
  earlierReleases,
  fingerprints,
  ...rules
}: MountConfig): RulesConfig {
  return rules;
}

function compileRules(area: string, layers: readonly Layer[], { compilers, describe }: CompileTools): Rules {
  const names = Object.keys(compilers) as RuleName[];
  const values: Partial<Record<RuleName, unknown>> = {};
  const origins: Partial<Record<RuleName, Origin>> = {};
  for (const name of names) {
    const { compile, inheritance, default: value } = compilers[name];
    const said: Said<unknown>[] = [{ value, where: DEFAULT_ORIGIN }];
    for (const { where, rules } of layers)
      if (rules[name] !== undefined) said.push({ value: rules[name], where });
    values[name] = compile(said as Said<never>[]);
    const where = inheritance === "innermost" ? said.at(-1)!.where : nameAdding(said);
    origins[name] = { ...where, place: keyAt(where, name) };
  }
  // There is a compiler for each.
  const [all, places] = [values as RuleValues, origins as Rules["origins"]];
  return { ...all, area, origins: places, describe: () => describe(all, places) };
}

function nameAdding(said: readonly Said<unknown>[]): Origin {
  const adding = said.filter(({ value }) => Object.keys(value as object).length > 0);
  if (adding.length === 0) return DEFAULT_ORIGIN;
  return { ...adding.at(-1)!.where, words: adding.map(({ where }) => where.words).join(" and ") };
}
