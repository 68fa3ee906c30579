import type { Reference } from "../../reading/pages/references.js";
import type { Names } from "../examine/notes.js";
import type { SurveyContext, SurveyedFile } from "../survey-context.js";
import { Modules } from "./modules.js";
import { reportOtherPlaces } from "./other-places.js";
import { reportBroken } from "./report-broken.js";
import { ORIGIN, Targets } from "./targets.js";

const SITE = `${ORIGIN}/`;

/** Follows what pages, style sheets, scripts, manifests and sitemaps name. All files must be known before the first one is read. */
export class Links {
  readonly targets: Targets;
  readonly #context: SurveyContext;
  readonly #modules: Modules;

  constructor(context: SurveyContext) {
    this.#context = context;
    this.targets = new Targets(context);
    this.#modules = new Modules(context, this.targets);
  }

  /** Follows what a file names; what a script imports is followed at the end. */
  async follow(file: SurveyedFile, names: Names): Promise<void> {
    const { form, references, anchors } = names;
    if (anchors !== undefined) this.targets.setAnchors(file, anchors);
    if (form === "script") this.#modules.add(file, names);
    else {
      if (form === "page") this.#modules.addPage(file, names);
      if (form !== "sitemap" || this.#isOurs(references)) await this.#followAll(file, references);
    }
  }

  // If this site has none of a sitemap's addresses, it is the sitemap of another site, or of another place.
  #isOurs(references: readonly Reference[]): boolean {
    return references.some(({ url }) => {
      const address = url.slice(ORIGIN.length).replace(/\?.*$/s, "");
      return this.targets.isKnown(address) || this.targets.isFolder(address);
    });
  }

  /** Follows what scripts import, and reports all that leads nowhere. */
  async finish(): Promise<void> {
    for (const [file, references] of this.#modules.listImports()) await this.#followAll(file, references);
    this.#modules.report();
    reportBroken(this.#context, this.targets);
  }

  async #followAll(file: SurveyedFile, references: readonly Reference[]): Promise<void> {
    for (const reference of references) {
      if (reference.written.includes("\\") && /^[^?#]*\\/.test(reference.written))
        this.#reportBackslash(file, reference.written);
      if (reference.url.startsWith(SITE)) {
        // Waiting for nothing costs more than following.
        const asking = this.targets.follow(file, reference);
        if (asking !== undefined) await asking;
      } else reportOtherPlaces(this.#context, file, reference);
    }
  }

  // URL Standard §4.4: only browsers take it for a slash.
  #reportBackslash(file: SurveyedFile, written: string): void {
    const shown = written.slice(0, 200);
    this.#context.reportCause("reference-with-backslash", file, shown, {
      reason: `It names ${shown}: browsers read the backslash as a slash, and other programs do not.`,
      fix: shown.replaceAll("\\", "/"),
    });
  }
}
