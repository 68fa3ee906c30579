import type { Asker, Reply } from "../ask/ask.js";
import { readText } from "../checks/content.js";
import { extensionOf, kindOf } from "./kind.js";
import { extractLinks, extractStyleLinks } from "./links.js";

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

const PAGES_AT_MOST = 25;
const LINKS_AT_MOST = 2000;

/**
 * Finds what a site serves by following its links from some addresses: pages and style sheets are read, at most 25 of them,
 * everything else is only noted. Addresses of other sites are left alone. Rejects when the first address does not answer.
 */
export async function crawl(asker: Asker, starts: readonly string[]): Promise<Candidate[]> {
  const found = new Set<string>(starts);
  const queue = [...starts];
  let read = 0;
  let first = true;
  while (queue.length > 0 && read < PAGES_AT_MOST) {
    const path = queue.shift()!;
    let reply: Reply;
    try {
      reply = await asker.ask({ method: "GET", path, headers: { Accept: "text/html,text/css,*/*;q=0.1" } });
    } catch (error) {
      if (first) throw error;
      continue;
    } finally {
      first = false;
    }
    read++;
    for (const href of findLinks(reply, asker.address + path)) {
      const link = toPath(href, asker.address);
      if (link === undefined || found.has(link) || found.size >= LINKS_AT_MOST) continue;
      found.add(link);
      if (isReadable(link)) queue.push(link);
    }
  }
  return [...found].map((path) => ({ path }));
}

function findLinks(reply: Reply, base: string): string[] {
  const { location } = reply.headers;
  if (location !== undefined && URL.canParse(location, base)) return [new URL(location, base).href];
  const content = readText(reply);
  const kind = kindOf(reply);
  if (!content.ok || reply.status >= 400) return [];
  if (kind === "document") return extractLinks(content.text ?? "", base);
  return kind === "style" ? extractStyleLinks(content.text ?? "", base) : [];
}

/** The part of an address behind the base; undefined for one of another site. */
function toPath(href: string, address: string): string | undefined {
  if (href === address) return "/";
  return href.startsWith(`${address}/`) ? href.slice(address.length) : undefined;
}

// Pages have no extension, or that of one; style sheets name fonts and pictures.
function isReadable(path: string): boolean {
  return /^(?:|\.html?|\.xhtml|\.css)$/.test(extensionOf(path)) && !path.includes("?");
}
