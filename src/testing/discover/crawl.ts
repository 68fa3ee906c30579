import { extensionOf } from "../../reading/contents/kinds.js";
import { LONGEST_PAGE } from "../../reading/pages/page.js";
import { findReferences as findNamedIn, findReferencesIn } from "../../reading/pages/references.js";
import type { Asker, Reply } from "../ask/ask.js";
import { doAtATime } from "../ask/at-a-time.js";
import { pageOf, readText } from "../checks/content.js";
import { kindOf } from "./kind.js";

/** An address that something is at, before it is looked at closely. */
export interface Candidate {
  readonly path: string;
  /** Bytes, where they are known. */
  readonly sizeBytes?: number | undefined;
  readonly mediaType?: string | undefined;
  readonly fingerprinted?: boolean | undefined;
  /** The mount it belongs to, where that is known: each has its own rules. */
  readonly mount?: string | undefined;
}

/** An address of the site that one of its files names. */
export interface Mention {
  readonly from: string;
  readonly to: string;
  /** As it is written there. */
  readonly written: string;
  /** What names it: an element such as `img`, `url()`, `import`, a manifest, a field. */
  readonly by: string;
}

/** What following links finds. */
export interface Crawled {
  readonly candidates: readonly Candidate[];
  /** The first mention of each address. */
  readonly mentions: readonly Mention[];
  /** Addresses that were found beyond the most that are kept. */
  readonly leftOut: number;
}

export interface CrawlLimits {
  /** Files that are read for what they name. */
  readonly reads: number;
  /** Addresses that are kept. */
  readonly addresses: number;
}

/** Enough for an example of each kind of thing. */
export const A_LOOK: CrawlLimits = { reads: 25, addresses: 2000 };
/** Enough for every link of a site of some size. */
export const EVERY_LINK: CrawlLimits = { reads: 2000, addresses: 5000 };

/** A longer file is not read for what it names, in bytes. */
const READ_AT_MOST = 2 * 1024 * 1024;

/**
 * Finds what a site serves by following its links from some addresses: pages, style sheets, scripts and manifests are read, other
 * things only noted. Addresses of other sites are left alone. Rejects when the first address does not answer.
 */
export async function crawl(
  asker: Asker,
  starts: readonly string[],
  limits: CrawlLimits = A_LOOK,
  onFound?: (found: number) => void,
): Promise<Crawled> {
  const found = new Set<string>(starts);
  const mentions: Mention[] = [];
  let [reads, leftOut] = [0, 0];
  let wave: readonly string[] = starts;
  while (wave.length > 0 && reads < limits.reads) {
    const now = wave.slice(0, limits.reads - reads);
    const first = reads === 0;
    reads += now.length;
    const answers = await doAtATime(now, asker.concurrency, (path) =>
      readFrom(asker, path).catch((error: unknown) => {
        if (first && path === starts[0]) throw error;
        return [];
      }),
    );
    const next: string[] = wave.slice(now.length);
    for (const mention of answers.flat()) {
      if (found.has(mention.to)) continue;
      if (found.size >= limits.addresses) {
        leftOut++;
        continue;
      }
      found.add(mention.to);
      mentions.push(mention);
      if (isReadable(mention.to)) next.push(mention.to);
    }
    wave = next;
    onFound?.(found.size);
  }
  return { candidates: [...found].map((path) => ({ path })), mentions, leftOut };
}

/** What an address of the site names, within the site. */
async function readFrom(asker: Asker, path: string): Promise<Mention[]> {
  const headers = { Accept: "text/html,text/css,*/*;q=0.1" };
  const reply = await asker.ask({ method: "GET", path, headers, readAtMost: READ_AT_MOST });
  return findReferences(reply, asker.address + path).flatMap(({ url, written, by }) => {
    const to = toPath(url, asker.address);
    return to === undefined ? [] : [{ from: path, to, written, by }];
  });
}

interface Named {
  readonly url: string;
  readonly written: string;
  readonly by: string;
}

/** The addresses that an answer names, resolved against its own. */
export function findReferences(reply: Reply, base: string): Named[] {
  const { location, link = "" } = reply.headers;
  if (location !== undefined && URL.canParse(location, base))
    return [{ url: new URL(location, base).href, written: location, by: "Location" }];
  const told = findInLinkField(link, base);
  const content = readText(reply);
  if (!content.ok || reply.status >= 400 || reply.isCut) return told;
  const kind = kindOf(reply);
  const isOther = kind !== "document" && kind !== "style" && kind !== "script";
  if (isOther && !isManifest(base)) return told;
  const named =
    kind === "document"
      ? findNamedIn(pageOf(reply), base)
      : findReferencesIn((content.text ?? "").slice(0, LONGEST_PAGE), isOther ? "manifest" : kind, base);
  return [
    ...told,
    ...named.map(({ url, written, element }) => ({ url, written, by: BY_ELEMENT[element] ?? element })),
  ];
}

/** What names an address that no element names. */
const BY_ELEMENT: Readonly<Record<string, string>> = { style: "url()", manifest: "a manifest" };

// RFC 8288 §3: a target in angle brackets. Only what is loaded at once is followed.
function findInLinkField(field: string, base: string): Named[] {
  return [...field.matchAll(/<([^<>\s]{1,2000})>([^<]{0,1000})/g)].flatMap(([, target, parameters]) => {
    const isLoaded = /\brel\s*=\s*"?[^";,]*\b(?:module)?preload\b/i.test(parameters!);
    return isLoaded && URL.canParse(target!, base)
      ? [{ url: new URL(target!, base).href, written: target!, by: "the field Link" }]
      : [];
  });
}

/** The part of an address behind the base; undefined for one of another site. */
export function toPath(href: string, address: string): string | undefined {
  if (href === address) return "/";
  return href.startsWith(`${address}/`) ? href.slice(address.length) : undefined;
}

const isManifest = (path: string): boolean => /(?:\.webmanifest|\/manifest\.json)$/.test(path);

// Pages have no extension, or that of one; style sheets name fonts and pictures, scripts what they import.
function isReadable(path: string): boolean {
  return (
    (/^(?:|\.html?|\.xhtml|\.css|\.m?js)$/.test(extensionOf(path)) && !path.includes("?")) || isManifest(path)
  );
}
