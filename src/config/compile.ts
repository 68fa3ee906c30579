import type { RuleInForce } from "../core/explain/trace.js";
import type { Mount } from "../core/rules/mount.js";
import { PrefixTree } from "../core/rules/prefix-tree.js";
import type { Rules, RuleValues } from "../core/rules/rules.js";
import type { FileSource } from "../core/source.js";
import { KINDS } from "./kinds.js";
import type { Said } from "./rule.js";
import { RULE_NAMES, RULES, type RuleName } from "./rules.js";
import type { MountConfig, RulesConfig, SiteConfig } from "./schema.js";
import { isWithin, trimSlashes } from "./values.js";

/** One place that says rules, and how it is named in explanations. */
interface Layer {
  readonly where: string;
  readonly rules: RulesConfig;
}

const DEFAULTS: Layer = {
  where: "default",
  rules: Object.fromEntries(RULE_NAMES.map((name) => [name, RULES[name].default])),
};

/** Compiles a mount: every area gets all its rules, so that a request looks up one place. */
export function compileMount(
  site: SiteConfig,
  index: number,
  source: FileSource,
  systemTypes: ReadonlyMap<string, string>,
): Mount {
  const config = site.mounts[index]!;
  const where = `mounts[${index}]`;
  const kind = config.kind ?? "pages";
  const layers: Layer[] = [
    DEFAULTS,
    typesLayer(site, systemTypes),
    { where: `kind ${kind}`, rules: KINDS[kind] },
    siteLayer(site),
    { where, rules: rulesOf(config) },
  ];
  const areas = new PrefixTree<Rules>();
  areas.set("", compileRules("", layers));
  const written = Object.entries(config.areas ?? {}).map(([key, rules]) => ({
    path: trimSlashes(key),
    layer: { where: `${where}.areas[${JSON.stringify(key)}]`, rules },
  }));
  for (const { path } of written) {
    const enclosing = written
      .filter((other) => isWithin(path, other.path))
      .sort((a, b) => a.path.length - b.path.length)
      .map(({ layer }) => layer);
    areas.set(path, compileRules(path, [...layers, ...enclosing]));
  }
  return { at: trimSlashes(config.at ?? "/"), source, areas };
}

/** Compiles the rules of what no mount covers: those that are said for the whole site. */
export function compileOutside(site: SiteConfig): Rules {
  return compileRules("", [DEFAULTS, siteLayer(site)]);
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

function compileRules(area: string, layers: readonly Layer[]): Rules {
  const said = (name: RuleName): Said<never>[] =>
    layers.flatMap(({ where, rules }) =>
      rules[name] === undefined ? [] : [{ value: rules[name] as never, where }],
    );
  const values = Object.fromEntries(
    RULE_NAMES.map((name) => [name, RULES[name].compile(said(name))]),
  ) as unknown as RuleValues;
  const origins = Object.fromEntries(
    RULE_NAMES.map((name) => [name, nameOrigin(name, said(name))]),
  ) as Rules["origins"];
  return { ...values, area, origins, describe: () => describeRules(values, origins) };
}

function nameOrigin(name: RuleName, said: readonly Said<unknown>[]): string {
  if (RULES[name].inheritance === "innermost") return said.at(-1)!.where;
  const adding = said.filter(({ value }) => Object.keys(value as object).length > 0);
  return adding.length === 0 ? "default" : adding.map(({ where }) => where).join(" and ");
}

function describeRules(values: RuleValues, origins: Rules["origins"]): RuleInForce[] {
  return RULE_NAMES.map((name) => {
    const explain = RULES[name].explain as (value: unknown) => string;
    const value = explain(values[name]);
    return { name, value: value === "" ? "none" : value, origin: origins[name] };
  });
}
