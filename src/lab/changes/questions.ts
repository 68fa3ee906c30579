import type { SiteConfig } from "../../config/config-types.js";
import { trimSlashes } from "../../config/paths.js";
import { mediaTypeByName } from "../../core/media-types/media-type.js";
import type { SiteRequest } from "../../core/request/request.js";
import { formatPath } from "../../core/request/target.js";
import { walkMount } from "../../core/resolve/walk.js";
import { selectRules } from "../../core/rules/mount.js";
import { joinPath, sitePath } from "../../core/text/path.js";
import { AUDIENCES } from "../engine/audiences.js";
import type { Subject } from "../engine/subject.js";
import type { Reach } from "./changed-rules.js";
import { describeOutcome } from "./outcome.js";

/** One thing that is asked of both sites. */
export interface ChangeQuestion {
  readonly request: SiteRequest;
  /** `/guide/`, or with who asks: "/guide/ (another origin)". */
  readonly label: string;
  readonly address: string;
}

/** Addresses that are answered alike when somebody asks for them, as far as it is known beforehand. */
export interface Alike {
  /** A key of AUDIENCES. */
  readonly as: string;
  /** Who asks, in words, where it is not the usual one. */
  readonly who: string;
  readonly addresses: readonly string[];
}

/** A name that no site has. */
const NO_SUCH_NAME = "no-such-name-4f1c";
/** The same with a dot in it: routes written in a configuration may have one. */
const NO_SUCH_ROUTE = "no.such-name-4f1c";
/** How many addresses are asked about at most. */
const ADDRESSES_AT_MOST = 100_000;
/** Who else asks for a file. */
const ALSO = ["other", "json", "plain", "player"] as const;
/** Where more addresses are asked about one by one, others than browsers ask for one of each kind in each folder. */
const OTHERS_UP_TO = 1000;

export const toQuestion = ({ as, who }: Alike, address: string): ChangeQuestion => ({
  request: { method: "GET", target: address, headers: AUDIENCES[as]!.headers },
  label: who === "" ? address : `${address} (${who})`,
  address,
});

/**
 * What is asked to find out what a change of configuration does: every address of either site as a browser asks for it and as others do,
 * and addresses of nothing: below each folder, without a folder's slash, without a document's extension, and old ones. Where only rules
 * changed that go by the path, files to which both sites' rules say the same are left out, and those to which they say the same new things
 * are told to be alike. `isSampled` where others than browsers are asked about samples, because there are very many addresses.
 */
export async function listQuestions(
  here: Subject,
  there: Subject,
  reach: Reach,
): Promise<{ readonly alike: readonly Alike[]; readonly isSampled: boolean }> {
  const goesByPath = reach.by !== "anything";
  const paths = await listPaths(reach.offersAlike ? [there] : [here, there], reach.by === "path and size");
  const classes = new Map<string, Alike & { readonly addresses: string[] }>();
  const seen = new Set<string>();
  const add = (address: string, as: string, alike: string, who = ""): void => {
    const key = `${as} ${alike}`;
    const group = classes.get(key) ?? { as, who, addresses: [] };
    classes.set(key, group);
    group.addresses.push(address);
  };
  const ask: Ask = (address, as, alike) => {
    if (seen.has(address)) return;
    seen.add(address);
    add(address, as, alike);
  };
  const sampled = new Set<string>();
  const isSampled = !goesByPath && paths.size > OTHERS_UP_TO;
  for (const [path, { type, isLinked, sizeClass }] of paths) {
    const address = `/${formatPath(path)}`;
    if (type === undefined) {
      askAboutFolder(path === "" ? "/" : `${address}/`, ask);
      continue;
    }
    // What is reached through a link goes by two paths: it is asked by itself.
    const isKnown = goesByPath && !isLinked;
    const outcomes = isKnown ? await tellOutcomes(here, there, path) : [path, ""];
    if (outcomes[0] === outcomes[1]) continue;
    const alike = isKnown ? `${outcomes.join("\n→\n")}\n${type} ${sizeClass}` : address;
    ask(address, askerOf(type), alike);
    const kind = `${path.slice(0, path.lastIndexOf("/"))} ${type}`;
    if (!isSampled || !sampled.has(kind))
      for (const as of ALSO) add(address, as, alike, AUDIENCES[as]!.label.replace(/^an? /, ""));
    sampled.add(kind);
    const extension = /\.html?$/.exec(path)?.[0];
    if (extension === undefined) continue;
    const short = path.slice(0, -extension.length);
    // Found by its shorter address, a file goes by the rules for both.
    const both = isKnown ? [alike, extension, ...(await tellOutcomes(here, there, short))] : [short];
    if (!paths.has(short)) ask(`/${formatPath(short)}`, "navigation", both.join("\n→\n"));
  }
  for (const route of new Set([...listRoutes(here.config), ...listRoutes(there.config)]))
    ask(`/${formatPath(route)}`, "navigation", `${route} of a shell`);
  for (const { from } of [...here.site.moved, ...there.site.moved]) {
    ask(from, "navigation", from);
    if (from.endsWith("/")) ask(`${from}${NO_SUCH_NAME}`, "navigation", `${from}…`);
  }
  return { alike: [...classes.values()], isSampled };
}

/** Addresses of applications' routes that the configuration names, where no file has to be. */
function listRoutes({ mounts }: SiteConfig): string[] {
  return mounts.flatMap(({ at = "/", appShell, areas = {} }) =>
    [appShell, ...Object.values(areas).map((area) => area.appShell)].flatMap((shell) => {
      if (typeof shell !== "object") return [];
      const { except = [], routes = [] } = shell;
      const paths = [
        ...except.flatMap((path) => [path, `${trimSlashes(path)}/${NO_SUCH_NAME}`]),
        ...routes.map((pattern) => pattern.replace(/\*+/g, NO_SUCH_ROUTE)),
      ];
      return paths.map((path) => joinPath(trimSlashes(at), trimSlashes(path)));
    }),
  );
}

type Ask = (address: string, as: string, alike: string) => void;

function askAboutFolder(address: string, ask: Ask): void {
  ask(address, "navigation", address);
  if (address !== "/") ask(address.slice(0, -1), "navigation", `${address} without its slash`);
  ask(`${address}${NO_SUCH_NAME}`, "navigation", `${address}…`);
  ask(`${address}${NO_SUCH_NAME}.js`, "script", `${address}….js`);
}

const tellOutcomes = async (here: Subject, there: Subject, path: string): Promise<[string, string]> => [
  await describeOutcome(here.compiled, path),
  await describeOutcome(there.compiled, path),
];

/** A path that a site offers. */
interface OfferedPath {
  /** Its media type; undefined for a folder. */
  readonly type: string | undefined;
  /** A symbolic link leads to it, or to a folder above it. */
  readonly isLinked: boolean;
  /** All bounds of sizes are powers of two: files between two of these are on one side of each. */
  readonly sizeClass: number;
}

/** The paths that any of the sites offers. */
async function listPaths(sites: readonly Subject[], sizes: boolean): Promise<Map<string, OfferedPath>> {
  const paths = new Map<string, OfferedPath>();
  for (const { compiled } of sites)
    for (const mount of compiled.mounts.values()) {
      const { mounts } = compiled;
      for await (const { path, kind, liesAt, sizeBytes } of walkMount(mount, { mounts, sizes })) {
        if (paths.size >= ADDRESSES_AT_MOST) return paths;
        const type = mediaTypeByName(path, selectRules(mount, path).mediaTypes);
        const at = sitePath(mount, path);
        const isLinked = liesAt !== undefined || paths.get(at)?.isLinked === true;
        const sizeClass = sizes ? Math.ceil(Math.log2(sizeBytes)) : 0;
        paths.set(at, { type: kind === "file" ? type : undefined, isLinked, sizeClass });
      }
    }
  return paths;
}

function askerOf(type: string): string {
  if (type.startsWith("text/html")) return "navigation";
  return type.startsWith("image/") ? "picture" : "script";
}

/** An address of nothing, as people read it. */
export function nameAddress(label: string): string {
  return label.replace(NO_SUCH_NAME, "…").replace(NO_SUCH_ROUTE, "…");
}
