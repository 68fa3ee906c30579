import { adviseOnRelative } from "../config/choosing/relative-addresses.js";
import type { Answer } from "../core/answer/plan.js";
import { releasePlan } from "../core/answer/plan.js";
import { selectRules } from "../core/rules/mount.js";
import { foldName } from "../core/text/fold-name.js";
import { unescapeText } from "../core/text/unescape.js";
import type { Page } from "../reading/pages/element.js";
import { readOnce } from "../reading/pages/read-once.js";
import { findReferences, findRelativeAddresses, type Reference } from "../reading/pages/references.js";
import { extractManifestLinks, extractScriptLinks, extractStyleLinks } from "../testing/discover/links.js";
import type { ReadFile } from "./contents.js";
import { addressOf, type SurveyContext, type SurveyedFile } from "./survey-context.js";

/** Where the site is taken to be while its pages are read: no page names this host. */
const ORIGIN = "http://site.invalid";
/** So many redirects are followed from an address. */
const HOPS = 5;

/** What an address that a page names leads to: what is wrong with it, or undefined. */
type Verdict = "absent" | "refused" | "loops" | undefined;

/** A picture or film that a page shows at its own width, in CSS pixels. */
export interface ShownPicture {
  readonly address: string;
  readonly width: number;
  readonly page: string;
}

/** Follows the references in pages, style sheets, scripts and manifests, each address once. */
export class References {
  readonly shown: ShownPicture[] = [];
  readonly #context: SurveyContext;
  /** The addresses of files, by themselves and as they are where case does not count. */
  readonly #known = new Set<string>();
  readonly #folders: string[] = [];
  #folded: Map<string, string> | undefined;
  readonly #handsOn: boolean;
  readonly #verdicts = new Map<string, Verdict>();

  constructor(context: SurveyContext) {
    this.#context = context;
    // Somebody said that an application is behind the site: what it answers is not known here.
    this.#handsOn = context.compiled.mounts.values().some((mount) => {
      const { whenMissing, origins } = selectRules(mount, "");
      return whenMissing === "pass" && origins.whenMissing.by !== "default";
    });
  }

  addKnown(address: string): void {
    this.#known.add(address);
  }

  /** A folder's address, with its slash. */
  addFolder(address: string): void {
    this.#folders.push(address);
  }

  /** Reads the references of a file. They are followed later, when all files are known. */
  async read({ file, mediaType = "", start }: ReadFile, text: string): Promise<readonly Reference[]> {
    const base = `${ORIGIN}${addressOf(file.mount, file.path)}`;
    const plain = (urls: readonly string[]): Reference[] =>
      urls.map((url) => ({ url, written: url.replace(ORIGIN, ""), element: "", width: undefined }));
    if (mediaType === "text/html" || mediaType === "application/xhtml+xml") {
      const { page } = await readOnce(start, mediaType);
      this.#readShell(file, page);
      return findReferences(page, base);
    }
    if (mediaType === "text/css") return plain(extractStyleLinks(text, base));
    if (/javascript$/.test(mediaType)) return plain(extractScriptLinks(text, base));
    if (mediaType === "application/manifest+json") return plain(extractManifestLinks(text, base));
    return [];
  }

  // A document that answers deep links must not name anything relative to itself.
  #readShell(file: SurveyedFile, page: Page): void {
    const shell = selectRules(file.mount, file.path).appShell;
    if (shell?.file !== file.path) return;
    const relative = findRelativeAddresses(page);
    if (relative.length === 0) return;
    const folder = addressOf(file.mount, file.path).replace(/[^/]*$/, "");
    this.#context.report(
      "relative-in-shell",
      file,
      `It ${adviseOnRelative(relative, folder).split("; ")[0]}.`,
      `<base href="${folder}">`,
    );
  }

  /** Follows a reference of a file; reports what is wrong with it. */
  async follow(file: SurveyedFile, reference: Reference): Promise<void> {
    const { url, element, width } = reference;
    if (!url.startsWith(`${ORIGIN}/`)) {
      this.#reportInsecure(file, reference);
      return;
    }
    const target = url.slice(ORIGIN.length);
    const path = target.replace(/\?.*$/s, "");
    this.#context.linked.add(path);
    if (width !== undefined)
      this.shown.push({ address: path, width, page: addressOf(file.mount, file.path) });
    const verdict = await this.#judge(target, path, element);
    if (verdict !== undefined) this.#reportBroken(file, reference, { path, verdict });
  }

  // RFC 6797 §7 aside: a page that came over TLS may not load what comes in clear.
  #reportInsecure(file: SurveyedFile, { url, element }: Reference): void {
    if (
      !url.startsWith("http://") ||
      element === "a" ||
      element === "area" ||
      /^http:\/\/(?:localhost|127\.|\[::1\])/.test(url)
    )
      return;
    this.#context.report(
      "insecure-reference",
      file,
      `It loads ${url}, which browsers refuse if the page itself came over https:.`,
      url.replace(/^http:/, "https:"),
    );
  }

  async #judge(target: string, path: string, element: string): Promise<Verdict> {
    if (this.#known.has(path)) return undefined;
    const key = element === "a" ? `a ${path}` : path;
    if (this.#verdicts.has(key)) return this.#verdicts.get(key);
    const verdict = await this.#ask(target, element === "a" || element === "iframe" || element === "area");
    this.#verdicts.set(key, verdict);
    return verdict;
  }

  async #ask(target: string, isNavigation: boolean): Promise<Verdict> {
    const headers: Record<string, string> = isNavigation
      ? { accept: "text/html,*/*;q=0.8", "sec-fetch-mode": "navigate" }
      : { accept: "*/*", "sec-fetch-mode": "no-cors" };
    let at = target;
    for (let hop = 0; hop <= HOPS; hop++) {
      const answer: Answer = await this.#context.site.respond({
        method: "GET",
        target: at,
        headers,
        mayPass: this.#handsOn,
      });
      releasePlan(answer);
      if (answer.kind === "pass" || answer.reason.code === "outside-every-mount") return undefined;
      const location = answer.fields.get("Location");
      if (answer.status >= 300 && answer.status < 400 && location !== undefined) {
        const next = new URL(location, ORIGIN + at);
        if (next.origin !== ORIGIN) return undefined;
        at = next.pathname + next.search;
        continue;
      }
      return answer.status < 400 ? undefined : answer.status === 403 ? "refused" : "absent";
    }
    return "loops";
  }

  #reportBroken(
    file: SurveyedFile,
    { written, element }: Reference,
    { path, verdict }: { readonly path: string; readonly verdict: Exclude<Verdict, undefined> },
  ): void {
    const what = element === "a" || element === "area" ? "It links to" : "It loads";
    const context = this.#context;
    // The folder itself was told of.
    if (verdict === "refused" && context.refused.has(path)) return;
    const inOtherCase = this.#findFolded(path);
    if (inOtherCase !== undefined) {
      context.report(
        "reference-differs-in-case",
        file,
        `${what} ${written}, and the file is ${inOtherCase}: this works only on systems that ignore case.`,
        inOtherCase,
      );
      return;
    }
    const under = `/${file.mount.at}`;
    if (file.mount.at !== "" && this.#known.has(under + path)) {
      context.report(
        "reference-outside-prefix",
        file,
        `${what} ${written}, without the prefix of the site: ${under}${path} is there.`,
        under + path,
      );
      return;
    }
    const why = {
      absent: "there is nothing at that address (404)",
      refused: "the folder has no document and no listing (403)",
      loops: "the redirects from there never end",
    }[verdict];
    context.report(
      "broken-reference",
      file,
      `${what} ${written}, and ${why}.`,
      "Correct the link, or add its target.",
    );
  }

  #findFolded(path: string): string | undefined {
    this.#folded ??= new Map([...this.#folders, ...this.#known].map((known) => [foldAddress(known), known]));
    const found = this.#folded.get(foldAddress(path));
    return found === path ? undefined : found;
  }
}

const foldAddress = (address: string): string => foldName(unescapeText(address));
