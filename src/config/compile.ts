import type { RuleInForce } from "../core/explain/trace.js";
import type { Mount } from "../core/rules/mount.js";
import { PrefixTree } from "../core/rules/prefix-tree.js";
import type { Rules, RuleValues } from "../core/rules/rules.js";
import type { FileSource } from "../core/source.js";
import type { Said } from "./compiler.js";
import type { Compilers } from "./compilers.js";
import type { MountConfig, RulesConfig, SiteConfig } from "./config-types.js";
import { KINDS } from "./kinds.js";
import { isWithin, trimSlashes } from "./paths.js";

type RuleName = keyof RuleValues;

/** One place that says rules, and how it is named in explanations. */
interface Layer {
  readonly where: string;
  readonly rules: RulesConfig;
}

/** What a mount is compiled with: the same for every mount of a site. */
export interface CompileTools {
  readonly compilers: Compilers;
  /** Types of the system's own file, by extension without its dot. */
  readonly systemTypes: ReadonlyMap<string, string>;
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
  const where = `mounts[${index}]`;
  const kind = config.kind ?? "pages";
  const layers: Layer[] = [
    typesLayer(site, tools.systemTypes),
    { where: `kind ${kind}`, rules: KINDS[kind] },
    siteLayer(site),
    { where, rules: rulesOf(config) },
  ];
  const areas = new PrefixTree<Rules>();
  areas.set("", compileRules("", layers, tools));
  const written = Object.entries(config.areas ?? {}).map(([key, rules]) => ({
    path: trimSlashes(key),
    layer: { where: `${where}.areas[${JSON.stringify(key)}]`, rules },
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
  ...rules
}: SiteConfig): Layer {
  return { where: "site", rules };
}

function typesLayer({ typesFile = "" }: SiteConfig, types: ReadonlyMap<string, string>): Layer {
  const mediaTypes = Object.fromEntries([...types].map(([ext, type]) => [`.${ext}`, type]));
  return { where: `typesFile ${typesFile}`, rules: types.size === 0 ? {} : { mediaTypes } };
}

function rulesOf({
  at,
  folder,
  kind,
  links,
  areas,
  source,
  earlierReleases,
  ...rules
}: MountConfig): RulesConfig {
  return rules;
}

function compileRules(area: string, layers: readonly Layer[], { compilers, describe }: CompileTools): Rules {
  const names = Object.keys(compilers) as RuleName[];
  const values: Partial<Record<RuleName, unknown>> = {};
  const origins: Partial<Record<RuleName, string>> = {};
  for (const name of names) {
    const { compile, inheritance, default: value } = compilers[name];
    const said: Said<unknown>[] = [{ value, where: "default" }];
    for (const { where, rules } of layers)
      if (rules[name] !== undefined) said.push({ value: rules[name], where });
    values[name] = compile(said as Said<never>[]);
    origins[name] = inheritance === "innermost" ? said.at(-1)!.where : nameAdding(said);
  }
  // There is a compiler for each.
  const [all, places] = [values as RuleValues, origins as Rules["origins"]];
  return { ...all, area, origins: places, describe: () => describe(all, places) };
}

function nameAdding(said: readonly Said<unknown>[]): string {
  const adding = said.filter(({ value }) => Object.keys(value as object).length > 0);
  return adding.length === 0 ? "default" : adding.map(({ where }) => where).join(" and ");
}
