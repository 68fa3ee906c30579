import type { Answer } from "../../core/answer/plan.js";
import { releasePlan } from "../../core/answer/plan.js";
import { selectRules } from "../../core/rules/mount.js";
import type { Reference } from "../../reading/pages/references.js";
import { addressOf, type SurveyContext, type SurveyedFile } from "../survey-context.js";
import { type Anchors, leadsTo } from "./anchors.js";

/** Where the site is taken to be while its pages are read: no page names this host. */
export const ORIGIN = "http://site.invalid";
/** How many redirects are followed from an address. */
const HOPS = 5;

/** Why an address leads to nothing, with the file that is there all the same, if there is one. */
export interface Verdict {
  readonly kind: "absent" | "refused" | "loops" | "outside";
  /** The pattern, in words, that keeps it from visitors. */
  readonly withheldBy?: string | undefined;
}

/** An address that leads to nothing, and the files that name it. */
export interface BrokenTarget {
  readonly verdict: Verdict;
  readonly written: string;
  readonly isLoaded: boolean;
  readonly files: SurveyedFile[];
}

/** Fragments of one page that are not in it. */
export interface LostFragments {
  readonly fragments: Set<string>;
  readonly files: SurveyedFile[];
}

/** Every address of the site that its pages, styles, scripts and manifests name, each asked for once. */
export class Targets {
  /** By address. */
  readonly broken = new Map<string, BrokenTarget>();
  readonly lost = new Map<string, LostFragments>();
  /** The widest that a page shows a picture, by its address. */
  readonly shown = new Map<string, number>();
  readonly #context: SurveyContext;
  readonly #known = new Map<string, number>();
  readonly #files: SurveyedFile[] = [];
  readonly #folders = new Set<string>();
  readonly #anchors: (Anchors | undefined)[] = [];
  /** Fragments of pages that were not read yet. */
  readonly #waiting = new Map<number, Map<string, SurveyedFile>>();
  readonly #linked = new Set<number>();
  readonly #loaded = new Set<number>();
  readonly #aside = new Map<number, string>();
  readonly #namedFromOutside = new Set<number>();
  readonly #verdicts = new Map<string, Verdict | undefined>();
  readonly #handsOn: boolean;

  constructor(context: SurveyContext) {
    this.#context = context;
    // Somebody said that an application is behind the site: what it answers is not known here.
    this.#handsOn = context.compiled.mounts.values().some((mount) => {
      const { whenMissing, origins } = selectRules(mount, "");
      return whenMissing === "pass" && origins.whenMissing.by !== "default";
    });
  }

  /** `aside` is the folder that it was put away in, with its slash: who names it from outside counts there. */
  addKnown(file: SurveyedFile, aside?: string): void {
    if (aside !== undefined) this.#aside.set(this.#files.length, aside);
    this.#known.set(ORIGIN + addressOf(file.mount, file.path), this.#files.length);
    this.#files.push(file);
  }

  /** A folder's address, with its slash. */
  addFolder(address: string): void {
    this.#folders.add(address);
  }

  isKnown(address: string): boolean {
    return this.#known.has(ORIGIN + address);
  }

  /** True for the address of a folder, with its slash. */
  isFolder(address: string): boolean {
    return this.#folders.has(address);
  }

  /** All addresses that are known. */
  *addresses(): Generator<string> {
    yield* this.#folders;
    for (const url of this.#known.keys()) yield url.slice(ORIGIN.length);
  }

  fileAt(address: string): SurveyedFile | undefined {
    const index = this.#known.get(ORIGIN + address);
    return index === undefined ? undefined : this.#files[index];
  }

  isLinked(file: SurveyedFile): boolean {
    const index = this.#known.get(ORIGIN + addressOf(file.mount, file.path));
    return index !== undefined && this.#linked.has(index);
  }

  /** True for what pages show or run, and do not only link to. */
  isLoaded(file: SurveyedFile): boolean {
    const index = this.#known.get(ORIGIN + addressOf(file.mount, file.path));
    return index !== undefined && this.#loaded.has(index);
  }

  /** True for a file that was put away, and is named by one that was not. */
  isNamedFromOutside(file: SurveyedFile): boolean {
    const index = this.#known.get(ORIGIN + addressOf(file.mount, file.path));
    return index !== undefined && this.#namedFromOutside.has(index);
  }

  /** Says which fragments lead somewhere in a page. */
  setAnchors(file: SurveyedFile, anchors: Anchors): void {
    const index = this.#known.get(ORIGIN + addressOf(file.mount, file.path));
    if (index === undefined) return;
    this.#anchors[index] = anchors;
    for (const [fragment, from] of this.#waiting.get(index) ?? []) this.#checkFragment(index, fragment, from);
    this.#waiting.delete(index);
  }

  /** Follows a reference of a file to an address of the site. Gives what to wait for where the address was not asked for before. */
  follow(from: SurveyedFile, reference: Reference): Promise<void> | undefined {
    const { url, fragment, written, element, width } = reference;
    const query = url.indexOf("?");
    const place = query < 0 ? url : url.slice(0, query);
    const index = this.#known.get(place);
    const isLoaded = element !== "a" && element !== "area";
    if (width !== undefined) this.#show(place.slice(ORIGIN.length), width);
    if (index !== undefined) {
      this.#linked.add(index);
      if (isLoaded) this.#loaded.add(index);
      const aside = this.#aside.get(index);
      if (aside !== undefined && !from.path.startsWith(aside)) this.#namedFromOutside.add(index);
      if (fragment !== "") this.#checkFragment(index, fragment, from);
      return undefined;
    }
    const path = place.slice(ORIGIN.length);
    const isNavigation = !isLoaded || /^i?frame$/.test(element);
    const key = isNavigation ? `a ${path}` : path;
    const verdict = this.#verdicts.get(key);
    if (verdict === undefined && !this.#verdicts.has(key))
      return this.#ask(url.slice(ORIGIN.length), isNavigation).then((found) => {
        this.#verdicts.set(key, found);
        return this.follow(from, reference);
      });
    if (verdict !== undefined) this.#addBroken(path, { verdict, written, isLoaded, files: [from] });
    return undefined;
  }

  #show(path: string, width: number): void {
    this.shown.set(path, Math.max(width, this.shown.get(path) ?? 0));
  }

  #addBroken(path: string, one: BrokenTarget): void {
    const known = this.broken.get(path);
    if (known === undefined) this.broken.set(path, { ...one, written: copyOf(one.written) });
    else if (known.files.at(-1) !== one.files[0]) known.files.push(one.files[0]!);
  }

  #checkFragment(index: number, fragment: string, from: SurveyedFile): void {
    const anchors = this.#anchors[index];
    if (anchors === undefined) {
      const waiting = this.#waiting.get(index) ?? new Map<string, SurveyedFile>();
      if (!waiting.has(fragment)) waiting.set(copyOf(fragment), from);
      this.#waiting.set(index, waiting);
      return;
    }
    if (leadsTo(anchors, fragment)) return;
    const { mount, path } = this.#files[index]!;
    const address = addressOf(mount, path);
    const lost = this.lost.get(address) ?? { fragments: new Set<string>(), files: [] };
    lost.fragments.add(copyOf(fragment));
    if (lost.files.at(-1) !== from) lost.files.push(from);
    this.lost.set(address, lost);
  }

  async #ask(target: string, isNavigation: boolean): Promise<Verdict | undefined> {
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
      if (answer.kind === "pass") return undefined;
      if (answer.reason.code === "outside-every-mount") return { kind: "outside" };
      const location = answer.fields.get("Location");
      if (answer.status >= 300 && answer.status < 400 && location !== undefined) {
        const next = new URL(location, ORIGIN + at);
        if (next.origin !== ORIGIN) return undefined;
        at = next.pathname + next.search;
        continue;
      }
      if (answer.status < 400) return undefined;
      const { code, subject } = answer.reason;
      return {
        kind: answer.status === 403 ? "refused" : "absent",
        withheldBy: code === "withheld" ? subject : undefined,
      };
    }
    return { kind: "loops" };
  }
}

/** A text of its own: a piece of a page keeps the whole page in memory. */
function copyOf(text: string): string {
  return Buffer.from(text).toString();
}
