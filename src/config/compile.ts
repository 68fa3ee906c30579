import { PrefixTree } from "../core/rules/prefix-tree.js";
import type { AppShell, ListingRules, Mount, Rules } from "../core/rules/rules.js";
import { compileWithheld, foldName } from "../core/rules/withheld.js";
import type { FileSource } from "../core/source.js";
import { compileCaching } from "./caching.js";
import { compileFileRule, compileUnlisted, compileWithheldPattern } from "./patterns.js";
import type { AreaConfig, MountConfig, SiteConfig } from "./schema.js";

export type Kind = "pages" | "app" | "archive";

/** What a mount starts from when it says nothing else. */
const DEFAULTS: AreaConfig = {
  defaultDocuments: ["index.html"],
  impliedExtensions: [],
  appShell: false,
  errorPages: {},
  whenMissing: "answer",
  withheld: [],
  unlisted: [],
  listing: false,
  mediaTypes: {},
  charset: "utf-8",
  codings: { prebuilt: [], compress: true },
  validators: "metadata",
  caching: [],
  headers: [],
  downloads: [],
  crossOrigin: false,
};

/** The starting set of rules of each kind; what a kind does not say is the default. */
export const KINDS: Readonly<Record<Kind, AreaConfig>> = {
  pages: { impliedExtensions: [".html"] },
  app: { appShell: "/index.html", caching: [{ files: "fingerprinted", policy: "immutable" }] },
  archive: { listing: true },
};

/** One place that says rules, and how it is named in explanations. */
interface Layer {
  readonly label: string;
  readonly rules: AreaConfig;
}

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
  const { base: _base, mounts: _mounts, typesFile = "", ...siteRules } = site;
  const layers: Layer[] = [
    { label: "default", rules: DEFAULTS },
    { label: `typesFile ${typesFile}`, rules: typesOf(systemTypes) },
    { label: `kind ${kind}`, rules: KINDS[kind] },
    { label: "site", rules: siteRules },
    { label: where, rules: mountRules(config) },
  ];

  const areas = new PrefixTree<Rules>();
  const allRules = [compileRules("", layers)];
  areas.set("", allRules[0]!);
  const byDepth = Object.entries(config.areas ?? {}).map(([key, rules]) => ({
    path: trimSlashes(key),
    key,
    rules,
  }));
  for (const { path } of byDepth) {
    const enclosing = byDepth
      .filter((other) => path === other.path || path.startsWith(`${other.path}/`) || other.path === "")
      .sort((a, b) => a.path.length - b.path.length)
      .map(({ key, rules }) => ({ label: `${where}.areas[${JSON.stringify(key)}]`, rules }));
    const rules = compileRules(path, [...layers, ...enclosing]);
    allRules.push(rules);
    areas.set(path, rules);
  }
  return { at: trimSlashes(config.at ?? "/"), source, areas, allRules };
}

function mountRules({ at, folder, kind, links, areas, source, ...rules }: MountConfig): AreaConfig {
  return rules;
}

function compileRules(area: string, layers: readonly Layer[]): Rules {
  const origins: Record<string, string> = {};
  // The innermost layer that says a property decides it.
  const decide = <Key extends keyof AreaConfig>(key: Key): NonNullable<AreaConfig[Key]> => {
    const layer = layers.findLast(({ rules }) => rules[key] !== undefined)!;
    origins[key] = layer.label;
    return layer.rules[key]!;
  };
  const place = (key: string, index: number): string => `${origins[key]}.${key}[${index}]`;
  // Withholding adds up: an inner area can hide more, and never uncovers what an outer one hides.
  const withheld = layers.flatMap(({ label, rules }) =>
    (rules.withheld ?? []).map((pattern) => compileWithheldPattern(pattern, label)),
  );
  // So do types: each extension is a rule of its own, and the innermost layer that names it decides.
  const types = layers.flatMap(({ rules }) =>
    Object.entries(rules.mediaTypes ?? {}).map(
      ([ext, type]) => [ext.slice(1).toLowerCase(), type.toLowerCase()] as const,
    ),
  );
  origins.mediaTypes = nameLayers(
    layers.filter(({ rules }) => Object.keys(rules.mediaTypes ?? {}).length > 0),
  );
  origins.withheld = nameLayers(layers.filter(({ rules }) => rules.withheld?.length));
  return {
    area,
    defaultDocuments: decide("defaultDocuments"),
    impliedExtensions: decide("impliedExtensions"),
    appShell: compileShell(decide("appShell")),
    errorPages: new Map(
      Object.entries(decide("errorPages")).map(([status, path]) => [Number(status), trimSlashes(path)]),
    ),
    whenMissing: decide("whenMissing"),
    withheldBy: compileWithheld(withheld),
    withheldPatterns: layers.flatMap(({ rules }) => rules.withheld ?? []),
    mediaTypes: new Map(types),
    listing: compileListing(decide("listing")),
    unlistedBy: compileUnlisted(decide("unlisted"), `unlisted of ${origins.unlisted ?? "default"}`),
    unlistedPatterns: decide("unlisted"),
    charset: decide("charset"),
    codings: compileCodings(decide("codings")),
    validators: decide("validators"),
    caching: decide("caching").map((one, i) =>
      compileCaching(one, compileFileRule(one.files, place("caching", i))),
    ),
    headers: decide("headers").map((one, i) => ({
      ...compileFileRule(one.files, place("headers", i)),
      fields: Object.entries(one.set),
    })),
    downloads: decide("downloads").map((one, i) => ({
      ...compileFileRule(typeof one === "string" ? one : one.files, place("downloads", i)),
      name: typeof one === "string" ? undefined : one.saveAs,
    })),
    crossOrigin: decide("crossOrigin") || undefined,
    fold: foldName,
    origins,
    profiles: new WeakMap(),
  };
}

function nameLayers(layers: readonly Layer[]): string {
  return layers.length === 0 ? "default" : [...new Set(layers.map(({ label }) => label))].join(" and ");
}

function typesOf(types: ReadonlyMap<string, string>): AreaConfig {
  return { mediaTypes: Object.fromEntries([...types].map(([ext, type]) => [`.${ext}`, type])) };
}

function compileListing(listing: NonNullable<AreaConfig["listing"]>): ListingRules | undefined {
  if (listing === false) return undefined;
  const {
    order = "name",
    pageSize = 500,
    filter = true,
    title,
    header,
    footer,
    stylesheet,
    render,
  } = listing === true ? {} : listing;
  return { order, pageSize, filter, title, header, footer, stylesheet, render };
}

function compileCodings({
  prebuilt = [],
  compress = true,
}: NonNullable<AreaConfig["codings"]>): Rules["codings"] {
  return { prebuilt: [...new Set(prebuilt)], compress };
}

function compileShell(shell: NonNullable<AreaConfig["appShell"]>): AppShell | undefined {
  if (shell === false) return undefined;
  if (typeof shell === "string") return { file: trimSlashes(shell), except: [] };
  return { file: trimSlashes(shell.file), except: (shell.except ?? []).map(trimSlashes) };
}

/** A path of the configuration as the core keeps it: no slash at either end. */
export function trimSlashes(path: string): string {
  return path.replace(/^\.?\/+|\/+$/g, "");
}
