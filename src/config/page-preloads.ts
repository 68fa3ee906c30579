import { Parser } from "htmlparser2";

/** So many are named at most: what is fetched early takes the place of something else. */
const AT_MOST = 12;

/**
 * What a page's head says that it needs at once, as values of Link (RFC 8288): its style sheets and modules, and what it preloads itself,
 * fonts among them. Addresses stand as the page writes them; where a `base` element gives them another meaning, the relative ones are left out.
 */
export function readPreloads(html: string): string[] {
  const links = new Set<string>();
  let [isOver, hasBase] = [false, false];
  const add = (
    address: string | undefined,
    rel: string,
    attributes: Readonly<Record<string, string>>,
    as?: string,
  ): void => {
    const written = address?.trim() ?? "";
    const isAbsolute = /^(?:\/|https?:)/i.test(written);
    // RFC 8288 §3: the address stands between these, and the field is one line of ASCII.
    if (
      !/^[\x21\x23-\x3b\x3d\x3f-\x7e]+$/.test(written) ||
      (hasBase && !isAbsolute) ||
      /^(?:data|blob):/i.test(written)
    )
      return;
    const parameters = [`rel=${rel}`, ...(as === undefined ? [] : [`as=${as}`])];
    if (attributes.crossorigin !== undefined)
      parameters.push(
        attributes.crossorigin === "use-credentials" ? "crossorigin=use-credentials" : "crossorigin",
      );
    if (attributes.integrity !== undefined && /^[\w+/=-]+$/.test(attributes.integrity))
      parameters.push(`integrity="${attributes.integrity}"`);
    if (links.size < AT_MOST) links.add(`<${written}>; ${parameters.join("; ")}`);
  };
  const parser = new Parser({
    onopentag(name, attributes) {
      if (isOver) return;
      if (name === "body") isOver = true;
      if (name === "base") hasBase = true;
      if (name === "script" && attributes.type?.trim().toLowerCase() === "module")
        add(attributes.src, "modulepreload", attributes);
      if (name !== "link") return;
      const words = (attributes.rel ?? "").toLowerCase().split(/\s+/);
      const forScreens = /^(?:|all|screen)$/i.test(attributes.media?.trim() ?? "");
      if (words.includes("stylesheet") && !words.includes("alternate") && forScreens)
        add(attributes.href, "preload", attributes, "style");
      if (words.includes("modulepreload")) add(attributes.href, "modulepreload", attributes);
      const as = attributes.as?.toLowerCase();
      if (
        words.includes("preload") &&
        as !== undefined &&
        /^(?:font|style|script|image|fetch)$/.test(as) &&
        forScreens
      )
        add(attributes.href, "preload", attributes, as);
    },
    onclosetag(name) {
      if (name === "head") isOver = true;
    },
  });
  parser.end(html);
  return [...links];
}
