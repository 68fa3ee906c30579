import { describePrivateName } from "../../config/private-names.js";
import { isFingerprinted } from "../../core/rules/fingerprint.js";
import type { Site } from "../../site/site.js";
import type { Asker, Question, Reply } from "../ask/ask.js";
import { NAVIGATION } from "../ask/ask.js";
import { doAtATime } from "../ask/at-a-time.js";
import { type Candidate, crawl } from "./crawl.js";
import { extensionOf, type Kind, kindOf } from "./kind.js";

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
  /** Directories that answer with a document, ending with a slash. */
  readonly directories: readonly string[];
  readonly shells: readonly Shell[];
  /** The answer to an address that nothing is at, asked as a program does. */
  readonly missing: Reply;
  readonly missingPath: string;
  /** Addresses of files whose names are rarely meant for visitors, with what they are. */
  readonly privateNames: readonly { readonly path: string; readonly what: string }[];
}

export interface SampleOptions {
  /** The site, where it is known: its files are looked over in place of following links. */
  readonly site?: Site | undefined;
  /** Addresses to look at, besides those that are found. */
  readonly paths?: readonly string[];
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
export async function takeSample(asker: Asker, { site, paths = [] }: SampleOptions = {}): Promise<Sample> {
  const tree = site === undefined ? undefined : await lookOver(site);
  const candidates = tree?.candidates ?? (await crawl(asker, ["/", ...paths]));
  const chosen = [...paths.map((path): Candidate => ({ path })), ...choose(candidates)];
  const addresses = [...new Set(chosen.map((one) => one.path))];
  const looks = await doAtATime(addresses, asker.concurrency, (path) => askFor(asker, path));
  const resources = looks.flatMap((look) => (look !== undefined && "reply" in look ? look : []));
  const large = looks.flatMap((look) => (look !== undefined && "sizeBytes" in look ? look : []));
  const missingPath = `/${NO_SUCH_NAME}`;
  const missing = await asker.ask({ method: "GET", path: missingPath, headers: { Accept: "*/*" } });
  const directories = resources
    .filter(({ path, kind }) => path.endsWith("/") && kind === "document")
    .map(({ path }) => path);
  const shells = declareShells(site) ?? (await findShells(asker, directories));
  const privateNames = tree?.privateNames ?? [];
  return {
    resources,
    large: [...large, ...(tree?.large ?? [])].slice(0, LARGE_AT_MOST),
    directories,
    shells,
    missing,
    missingPath,
    privateNames,
  };
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

/** A few of each extension, the fingerprinted apart, and no file that is too large to be read whole. */
export function choose(candidates: readonly Candidate[]): Candidate[] {
  const taken = new Map<string, number>();
  const chosen: Candidate[] = [];
  for (const candidate of candidates) {
    if (chosen.length >= RESOURCES_AT_MOST) break;
    if ((candidate.sizeBytes ?? 0) > SIZE_LIMIT) continue;
    const isDirectory = candidate.path.replace(/\?.*$/s, "").endsWith("/");
    const fingerprinted = candidate.fingerprinted ?? isFingerprinted(candidate.path);
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

async function askFor(asker: Asker, path: string): Promise<Sampled | Large | undefined> {
  const question: Question = { method: "GET", path, headers: {} };
  try {
    // A file whose size nobody knows is asked about before it is fetched.
    const head = asker.explain === undefined ? await asker.ask({ ...question, method: "HEAD" }) : undefined;
    const sizeBytes = Number(head?.headers["content-length"] ?? 0);
    if (sizeBytes > SIZE_LIMIT) return { path, sizeBytes };
    const reply = await asker.ask(question);
    if (reply.status !== 200) return undefined;
    const kind = kindOf(reply);
    return { path, kind, fingerprinted: isFingerprinted(path), question, reply };
  } catch {
    return undefined;
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
