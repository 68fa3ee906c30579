/** An address that a document names, apart from what it names inside its target. */
export interface Resolved {
  /** Absolute, without its fragment. */
  readonly url: string;
  /** Behind the `#`, as it is written; "" without one. */
  readonly fragment: string;
}

// Letters that stand in an address as they are written, without a scheme, a host or a query.
const SIMPLE = /^(?!\/\/)[\w~./-]+$/;

/** What was resolved against the folder that was last asked for: pages of one folder name the same addresses. */
let known = { base: "", urls: new Map<string, string>() };
/** How many are kept. */
const KNOWN_AT_MOST = 20_000;

/** Resolves the addresses that one document names (URL Standard §4.4): those of a few plain letters without the platform's parser. */
export class Resolver {
  #base: string;
  #origin = "";
  #folder = "";
  readonly #schemes: RegExp;
  #known = known.urls;

  /** `base` is an absolute address. Addresses of files are only given where they are asked for. */
  constructor(base: string, withFiles = false) {
    this.#schemes = withFiles ? /^(?:https?|file):$/ : /^https?:$/;
    this.#base = base;
    this.#split();
  }

  /** Sets another base, such as that of a `base` element. One that cannot be resolved is ignored. */
  setBase(written: string): void {
    const resolved = this.resolve(written);
    if (resolved === undefined) return;
    this.#base = resolved.url;
    this.#split();
  }

  #split(): void {
    const url = new URL(this.#base);
    this.#origin = url.origin;
    this.#folder = url.pathname.slice(0, url.pathname.lastIndexOf("/") + 1);
    const folder = this.#origin + this.#folder;
    if (known.base !== folder) known = { base: folder, urls: new Map() };
    this.#known = known.urls;
  }

  #keep(before: string, url: string): string {
    if (this.#known.size >= KNOWN_AT_MOST) this.#known.clear();
    // A piece of a page would keep the whole page in memory.
    this.#known.set(` ${before}`.slice(1), url);
    return url;
  }

  /** Undefined for what is no address of the web. One that is only a fragment is the base itself. */
  resolve(written: string): Resolved | undefined {
    const text = written.trim();
    const hash = text.indexOf("#");
    const [before, fragment] = hash < 0 ? [text, ""] : [text.slice(0, hash), text.slice(hash + 1)];
    if (before === "") return hash < 0 ? undefined : { url: this.#base, fragment };
    const url = this.#known.get(before);
    if (url !== undefined) return { url, fragment };
    if (SIMPLE.test(before)) {
      const path = before.startsWith("/") ? before : this.#folder + before;
      return { url: this.#keep(before, this.#origin + removeDots(path)), fragment };
    }
    if (!URL.canParse(before, this.#base)) return undefined;
    const { protocol, href } = new URL(before, this.#base);
    return this.#schemes.test(protocol) ? { url: href, fragment } : undefined;
  }
}

// RFC 3986 §5.2.4.
function removeDots(path: string): string {
  if (!path.includes("/.")) return path;
  const kept: string[] = [];
  const segments = path.slice(1).split("/");
  for (const [index, segment] of segments.entries()) {
    if (segment === "..") kept.pop();
    const isDots = segment === "." || segment === "..";
    if (!isDots) kept.push(segment);
    else if (index === segments.length - 1) kept.push("");
  }
  return `/${kept.join("/")}`;
}
