import type { Page } from "./element.js";

/** How many are named at most: what is fetched early takes the place of something else. */
const AT_MOST = 12;

/**
 * What a page's head says that it needs at once, as values of Link (RFC 8288): its style sheets and modules, and what it preloads itself,
 * fonts among them. Addresses stand as the page writes them; where a `base` element gives them another meaning, the relative ones are left out.
 */
export function findPreloads({ elements }: Page): string[] {
  const links = new Set<string>();
  let hasBase = false;
  for (const { name, attributes, isInHead } of elements) {
    if (!isInHead) continue;
    if (name === "base" && attributes.has("href")) hasBase = true;
    for (const [rel, as] of listUses(name, attributes)) {
      const address = attributes.get(name === "script" ? "src" : "href")?.trim() ?? "";
      const isAbsolute = /^(?:\/|https?:)/i.test(address);
      // RFC 8288 §3: the address stands between these, and the field is one line of ASCII.
      const isUsable = /^[\x21\x23-\x3b\x3d\x3f-\x7e]+$/.test(address) && !/^(?:data|blob):/i.test(address);
      if (!isUsable || (hasBase && !isAbsolute)) continue;
      if (links.size < AT_MOST) links.add(formatLink(address, rel, as, attributes));
    }
  }
  return [...links];
}

/** What an element of a head loads at once: the relation, and what it is loaded as. */
function listUses(
  name: string,
  attributes: ReadonlyMap<string, string>,
): [rel: string, as: string | undefined][] {
  if (name === "script")
    return attributes.get("type")?.trim().toLowerCase() === "module" ? [["modulepreload", undefined]] : [];
  if (name !== "link") return [];
  const words = (attributes.get("rel") ?? "").toLowerCase().split(/\s+/);
  const forScreens = /^(?:|all|screen)$/i.test(attributes.get("media")?.trim() ?? "");
  const uses: [string, string | undefined][] = [];
  if (words.includes("stylesheet") && !words.includes("alternate") && forScreens)
    uses.push(["preload", "style"]);
  if (words.includes("modulepreload")) uses.push(["modulepreload", undefined]);
  const as = attributes.get("as")?.toLowerCase();
  if (
    words.includes("preload") &&
    as !== undefined &&
    /^(?:font|style|script|image|fetch)$/.test(as) &&
    forScreens
  )
    uses.push(["preload", as]);
  return uses;
}

function formatLink(
  address: string,
  rel: string,
  as: string | undefined,
  attributes: ReadonlyMap<string, string>,
): string {
  const parameters = [`rel=${rel}`, ...(as === undefined ? [] : [`as=${as}`])];
  const crossOrigin = attributes.get("crossorigin");
  if (crossOrigin !== undefined)
    parameters.push(crossOrigin === "use-credentials" ? "crossorigin=use-credentials" : "crossorigin");
  const integrity = attributes.get("integrity");
  if (integrity !== undefined && /^[\w+/=-]+$/.test(integrity)) parameters.push(`integrity="${integrity}"`);
  return `<${address}>; ${parameters.join("; ")}`;
}
