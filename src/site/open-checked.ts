import { type CompileTools, compileMount, compileOutside } from "../config/compile.js";
import { type Compiler, innermost } from "../config/compiler.js";
import { COMPILERS, type Compilers, type HeavyRuleName } from "../config/compilers.js";
import type { SiteConfig } from "../config/config-types.js";
import { compileMoved } from "../config/moved/compile.js";
import { Memory } from "../core/memory/memory.js";
import { respond, respondFailed } from "../core/respond.js";
import { rulesForNames } from "../core/rules/file-rules.js";
import type { Mount } from "../core/rules/mount.js";
import type { Names } from "../core/rules/names.js";
import { PrefixTree } from "../core/rules/prefix-tree.js";
import { type CompiledSite, openSiteMemory } from "../core/site.js";
import type { NamesOptions } from "../reading/builds/known-names.js";
import { foldHeaderNames } from "./header-names.js";
import { makePause } from "./pause.js";
import type { Responder } from "./site.js";

/** A part of the library that a site in a browser may do without: `listings`, `pages`, `fingerprints`. */
export interface SitePart {
  readonly compilers?: Partial<Pick<Compilers, HeavyRuleName>>;
  /** Knows the names that builds made. */
  readonly openNames?: (options: NamesOptions) => Names;
  readonly answerListing?: CompiledSite["answerListing"];
}

/** What a site in a browser has besides the core. */
export interface CheckedOptions {
  /** What the configuration uses: `listings` of `epistyle/browser/listings`, `pages` of `epistyle/browser/pages` (protect, preloads), `fingerprints` of `epistyle/browser/fingerprints` (rules for `fingerprinted` files). */
  readonly parts?: readonly SitePart[];
}

/**
 * Makes a site of a configuration that was checked before, by `openSite` in a test or at build: it looks for no mistakes, neither in
 * the rules nor in the files, and loads nothing for that. Every mount has a `source`. Throws a TypeError for a mount without one, and
 * for a rule whose part is left out.
 */
export function openCheckedSite(config: SiteConfig, { parts = [] }: CheckedOptions = {}): Responder {
  const tools: CompileTools = {
    compilers: Object.assign({}, COMPILERS, LEFT_OUT, ...parts.map(({ compilers }) => compilers)),
    outermost: [],
    describe: () => [],
  };
  const mounts = new PrefixTree<Mount>();
  const memory = new Memory();
  const openNames = parts.find((part) => part.openNames !== undefined)?.openNames;
  for (const [index, { source }] of config.mounts.entries()) {
    if (source === undefined)
      throw new TypeError(`mounts[${index}]: found no source; write source: memorySource({ … }).`);
    const mount = compileMount(config, index, source, tools);
    if (openNames === undefined) refuseNames(mount);
    const names = openNames?.({ memory, at: mount.at, tell() {} });
    mounts.set(mount.at, { ...mount, ...(names && { names }) });
  }
  const site: CompiledSite = {
    mounts,
    outside: compileOutside(config, tools),
    moved: compileMoved(config),
    remembered: openSiteMemory(memory),
    answerListing: parts.find(({ answerListing }) => answerListing !== undefined)?.answerListing ?? never,
    compressor: undefined,
    pause: makePause(),
    now: Date.now,
  };
  return {
    memory,
    respond: (request) => respond(site, foldHeaderNames(request)),
    respondFailed: (request, cause) => respondFailed(site, foldHeaderNames(request), cause),
  };
}

/** What a site has in the place of a part that was left out: it says so where the configuration uses it. */
const LEFT_OUT: Pick<Compilers, HeavyRuleName> = {
  listing: refuse("listing", "listings"),
  protect: refuse("protect", "pages"),
  preloads: refuse("preloads", "pages"),
};

function refuse(name: HeavyRuleName, part: string): Compiler<unknown, undefined> {
  return innermost({
    default: false,
    compile(value, where) {
      if (value === false) return undefined;
      throw leftOut(`${where.words}.${name}`, part);
    },
  });
}

const leftOut = (where: string, part: string): TypeError =>
  new TypeError(
    `${where}: found a rule whose part is not included; import { ${part} } from "epistyle/browser/${part}", and write openCheckedSite(config, { parts: [${part}] }).`,
  );

// Without the part no name is taken for a fingerprint; a kind of mount does without it, but nobody who wrote a rule.
function refuseNames({ areas }: Mount): void {
  for (const rules of areas.values())
    for (const { label, rule } of rulesForNames(rules))
      if (rule !== undefined) throw leftOut(label, "fingerprints");
}

// No rule lists anything where there is no part for it.
function never(): never {
  throw new Error("There is no listing here.");
}
