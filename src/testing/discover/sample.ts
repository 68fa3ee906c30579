import { describePrivateName } from "../../config/hiding/private-names.js";
import { AddressNames } from "../../reading/builds/by-address.js";
import { extensionOf, type Kind } from "../../reading/contents/kinds.js";
import type { Site, SiteMoved } from "../../site/site.js";
import type { Asker, Question, Reply } from "../ask/ask.js";
import { NAVIGATION } from "../ask/ask.js";
import { doAtATime } from "../ask/at-a-time.js";
import { A_LOOK, type Candidate, type Crawled, crawl, EVERY_LINK } from "./crawl.js";
import { kindOf } from "./kind.js";

/** A resource with its answer to a plain GET: no coding, no conditions. */
export interface Sampled {
  readonly path: string;
  readonly kind: Kind;
  readonly fingerprinted: boolean;
  readonly question: Question;
  readonly reply: Reply;
}

/** A file that is too large to be read whole. */
export interface Large {
  readonly path: string;
  readonly sizeBytes: number;
}

/** A single-page application that is there, or should be. */
export interface Shell {
  /** Where deep links begin, ending with a slash. */
  readonly under: string;
  /** Addresses that must be answered with the shell. */
  readonly links: readonly string[];
  /** True when a configuration or a person says that it is there; otherwise it was found by asking. */
  readonly declared: boolean;
}

/** What a site serves, as far as packs and drafts look at it: one or a few of each kind. */
export interface Sample {
  readonly resources: readonly Sampled[];
  readonly large: readonly Large[];
  /** Addresses whose answer could not be read. */
  readonly unanswered: readonly string[];
  /** Directories that answer with a document, ending with a slash. */
  readonly directories: readonly string[];
  readonly shells: readonly Shell[];
  /** The answer to an address that nothing is at, asked as a program does. */
  readonly missing: Reply;
  readonly missingPath: string;
  /** What the site's files name within it, and how much of it was left out: every link where that was asked for. */
  readonly links: Pick<Crawled, "mentions" | "leftOut">;
  /** The base address, without a slash at its end. */
  readonly address: string;
  /** Asked in process: files cannot be written, and nobody else is asked. */
  readonly inProcess: boolean;
  /** Methods that write may be tried on it: a server of this machine, or one whose owner said so. */
  readonly mayWrite: boolean;
  /** Addresses of files whose names are rarely meant for visitors, with what they are. */
  readonly privateNames: readonly { readonly path: string; readonly what: string }[];
  /** Addresses that moved or are gone; undefined where the site's configuration is not known. */
  readonly moved: readonly SiteMoved[] | undefined;
}

export interface SampleOptions {
  /** The site, where it is known: its files are looked over instead of following links. */
  readonly site?: Site | undefined;
  /** More addresses to look at. */
  readonly paths?: readonly string[];
  /** Follows every link, and not only enough for an example of each kind. */
  readonly everyLink?: boolean;
  /** Methods that write may be tried on a server that is not on this machine. */
  readonly methods?: boolean | undefined;
  /** Told how many addresses were found so far. */
  readonly onFound?: ((found: number) => void) | undefined;
}

/** A name that nothing has, without an extension: where it is missing, a navigation may get the app shell. */
export const NO_SUCH_NAME = "no-such-name-4f1d";

const RESOURCES_AT_MOST = 120;
const OF_ONE_EXTENSION = 2;
const DOCUMENTS = 4;
/** A larger file is not read whole; of such, a few parts are looked at. */
const SIZE_LIMIT = 2 * 1024 * 1024;
const LARGE_AT_MOST = 2;
const FILES_AT_MOST = 50_000;

/** Looks a site over. Rejects when it does not answer at all. */
export async function takeSample(
  asker: Asker,
  { site, paths = [], everyLink = false, methods = false, onFound }: SampleOptions = {},
): Promise<Sample> {
  const tree = site === undefined ? undefined : await lookOver(site);
  const inProcess = asker.explain !== undefined;
  const crawled = await findLinks(asker, tree?.candidates, { paths, everyLink, onFound });
  const candidates = tree?.candidates ?? crawled.candidates;
  const isFingerprinted = judgeCandidates([
    ...candidates,
    ...crawled.mentions.map(({ to }) => ({ path: to })),
  ]);
  const chosen = [...paths.map((path): Candidate => ({ path })), ...choose(candidates, isFingerprinted)];
  const addresses = [...new Set(chosen.map((one) => one.path))];
  const looks = await doAtATime(addresses, asker.concurrency, (path) => askFor(asker, path));
  const resources = looks.flatMap((look) =>
    typeof look === "object" && "reply" in look
      ? { ...look, fingerprinted: isFingerprinted({ path: look.path }) }
      : [],
  );
  const unanswered = addresses.filter((_, index) => looks[index] === "unanswered");
  const large = looks.flatMap((look) => (typeof look === "object" && "sizeBytes" in look ? look : []));
  const missingPath = `/${NO_SUCH_NAME}`;
  const missing = await asker.ask({ method: "GET", path: missingPath, headers: { Accept: "*/*" } });
  const directories = resources
    .filter(({ path, kind }) => path.endsWith("/") && kind === "document")
    .map(({ path }) => path);
  const shells = declareShells(site) ?? (await findShells(asker, directories));
  const privateNames = tree?.privateNames ?? [];
  return {
    resources,
    unanswered,
    large: [...large, ...(tree?.large ?? [])].slice(0, LARGE_AT_MOST),
    directories,
    shells,
    missing,
    missingPath,
    links: crawled,
    address: asker.address,
    inProcess,
    mayWrite: inProcess || methods || isOwnMachine(asker.address),
    privateNames,
    moved: site?.moved,
  };
}

// Where the files are known, links are followed only when they are asked about: from every page there is.
async function findLinks(
  asker: Asker,
  known: readonly Candidate[] | undefined,
  { paths = [], everyLink = false, onFound }: Pick<SampleOptions, "paths" | "everyLink" | "onFound">,
): Promise<Crawled> {
  if (known !== undefined && !everyLink) return { candidates: [], mentions: [], leftOut: 0 };
  const pages = (known ?? []).filter(({ path }) => /^(?:|\.html?|\.xhtml)$/.test(extensionOf(path)));
  const starts = new Set(["/", ...paths, ...pages.map(({ path }) => path)]);
  return crawl(asker, [...starts].slice(0, EVERY_LINK.reads), everyLink ? EVERY_LINK : A_LOOK, onFound);
}

// RFC 6761 §6.3, RFC 1122 §3.2.1.3, RFC 4291 §2.5.3.
function isOwnMachine(address: string): boolean {
  return /^(?:localhost|(?:[\w-]+\.)+localhost|127(?:\.\d+){3}|\[::1\])$/.test(new URL(address).hostname);
}

async function lookOver(
  site: Site,
): Promise<{ candidates: Candidate[]; large: Large[]; privateNames: Sample["privateNames"] }> {
  const candidates: Candidate[] = [];
  const large: Large[] = [];
  const privateNames: { path: string; what: string }[] = [];
  for await (const { path, kind, mediaType, sizeBytes, fingerprinted, mount } of site.files()) {
    const what = kind === "file" ? describePrivateName(decodeURIComponent(path)) : undefined;
    if (what !== undefined) privateNames.push({ path, what });
    candidates.push({ path, mediaType, sizeBytes, fingerprinted, mount });
    if (sizeBytes > SIZE_LIMIT && large.length < LARGE_AT_MOST) large.push({ path, sizeBytes });
    if (candidates.length >= FILES_AT_MOST) break;
  }
  return { candidates, large, privateNames };
}

/** Tells the fingerprinted: as the site knows them, or by all addresses that were found. */
export function judgeCandidates(candidates: readonly Candidate[]): (one: Candidate) => boolean {
  const names = new AddressNames(candidates.map(({ path }) => path));
  const known = new Map(
    candidates.flatMap(({ path, fingerprinted }) =>
      fingerprinted === undefined ? [] : [[path, fingerprinted] as const],
    ),
  );
  return ({ path }) => known.get(path) ?? names.has(path);
}

/** A few of each extension, the fingerprinted apart, and no file that is too large to be read whole. */
export function choose(
  candidates: readonly Candidate[],
  isFingerprinted = judgeCandidates(candidates),
): Candidate[] {
  const taken = new Map<string, number>();
  const chosen: Candidate[] = [];
  for (const candidate of candidates) {
    if (chosen.length >= RESOURCES_AT_MOST) break;
    if ((candidate.sizeBytes ?? 0) > SIZE_LIMIT) continue;
    const isDirectory = candidate.path.replace(/\?.*$/s, "").endsWith("/");
    const fingerprinted = isFingerprinted(candidate);
    const key = `${candidate.mount} ${isDirectory ? "/" : extensionOf(candidate.path)} ${fingerprinted}`;
    const before = taken.get(key) ?? 0;
    const limit =
      isDirectory || /^(?:|\.html?)$/.test(extensionOf(candidate.path)) ? DOCUMENTS : OF_ONE_EXTENSION;
    if (before >= limit) continue;
    taken.set(key, before + 1);
    chosen.push(candidate);
  }
  return chosen;
}

async function askFor(
  asker: Asker,
  path: string,
): Promise<Omit<Sampled, "fingerprinted"> | Large | "unanswered" | undefined> {
  const question: Question = { method: "GET", path, headers: {} };
  try {
    const reply = await asker.ask({ ...question, readAtMost: SIZE_LIMIT });
    const sizeBytes = Number(reply.headers["content-length"] ?? 0);
    if (reply.isCut) return sizeBytes > 0 ? { path, sizeBytes } : undefined;
    if (reply.status !== 200) return undefined;
    const kind = kindOf(reply);
    return { path, kind, question, reply };
  } catch {
    return "unanswered";
  }
}

function declareShells(site: Site | undefined): Shell[] | undefined {
  if (site === undefined) return undefined;
  return site.mounts.flatMap(({ appShells }) =>
    appShells.map((under) => ({ under, links: [`${under}${NO_SUCH_NAME}/42`], declared: true })),
  );
}

// The innermost directory first: what answers there need not answer above it.
async function findShells(asker: Asker, directories: readonly string[]): Promise<Shell[]> {
  const shells: Shell[] = [];
  for (const under of [...directories].sort((a, b) => b.length - a.length)) {
    const link = `${under}${NO_SUCH_NAME}/42`;
    const reply = await asker.ask({ method: "GET", path: link, headers: NAVIGATION }).catch(() => undefined);
    const isDocument = reply !== undefined && kindOf(reply) === "document";
    if (reply?.status === 200 && isDocument) shells.push({ under, links: [link], declared: false });
  }
  // One that answers everywhere is one, at the outermost place.
  return shells.filter(
    ({ under }) => !shells.some((other) => other.under !== under && under.startsWith(other.under)),
  );
}

/** The folders of what is served, without a page that its own links name. */
export function foldersOf({ resources, directories }: Sample): string[] {
  const folders = new Set<string>();
  for (const { path } of resources) {
    const parts = path
      .replace(/[?#].*$/s, "")
      .split("/")
      .slice(1, -1);
    for (let depth = parts.length; depth > 0; depth--) folders.add(`/${parts.slice(0, depth).join("/")}/`);
  }
  const known = new Set([...directories, ...resources.map(({ path }) => path)]);
  return [...folders].filter((folder) => !known.has(folder)).sort();
}
