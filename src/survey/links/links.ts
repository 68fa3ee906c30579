import { describeRelative } from "../../config/choosing/relative-addresses.js";
import { selectRules } from "../../core/rules/mount.js";
import { isXml } from "../../core/rules/protect.js";
import type { PageElement } from "../../reading/pages/element.js";
import { readPage } from "../../reading/pages/page.js";
import {
  findReferencesIn,
  findRelativeAddresses,
  type Reference,
  ReferenceReader,
} from "../../reading/pages/references.js";
import { scanHtml } from "../../reading/pages/scan-html.js";
import { inSlices } from "../../reading/slices.js";
import { reportUnbuilt } from "../project.js";
import { addressOf, type SurveyContext, type SurveyedFile } from "../survey-context.js";
import { AnchorReader } from "./anchors.js";
import { Modules, type Script } from "./modules.js";
import { reportOtherPlaces } from "./other-places.js";
import { reportBroken } from "./report-broken.js";
import { findSitemapLinks } from "./sitemap.js";
import { ORIGIN, Targets } from "./targets.js";

const SITE = `${ORIGIN}/`;

/** What a file may name others in. */
type Form = "page" | "style" | "script" | "manifest" | "sitemap";

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

  /** Reads a file whose whole text is given, and follows what it names. */
  async read(file: SurveyedFile, mediaType: string, text: string): Promise<void> {
    const form = formOf(file, mediaType);
    const base = ORIGIN + addressOf(file.mount, file.path);
    if (form === undefined) return;
    if (form === "page") await this.#readPage(file, { mediaType, text, base });
    else if (form === "script") this.#modules.add(file, text);
    else if (form === "sitemap") await this.#followAll(file, findSitemapLinks(text, this.targets));
    else await this.#followAll(file, findReferencesIn(text, form, base));
  }

  /** Follows what scripts import, and reports all that leads nowhere. */
  async finish(): Promise<void> {
    for (const [file, references] of this.#modules.listImports()) await this.#followAll(file, references);
    this.#modules.report();
    reportBroken(this.#context, this.targets);
  }

  async #readPage(
    file: SurveyedFile,
    { mediaType, text, base }: { readonly mediaType: string; readonly text: string; readonly base: string },
  ): Promise<void> {
    const xml = isXml(mediaType);
    let page = new PageReader(base);
    if (xml || !scanHtml(text, (element) => page.look(element))) {
      page = new PageReader(base);
      for (const element of (await inSlices(readPage(text, xml))).elements) page.look(element);
    }
    const { references, scripts } = page;
    reportUnbuilt(this.#context, file, scripts);
    if (/html/.test(mediaType)) this.targets.setAnchors(file, page.anchors.list());
    await this.#lookAtShell(file, { text, xml });
    this.#modules.addPage(file, { scripts, references });
    await this.#followAll(file, references);
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

  // A document that is sent for addresses in several folders must not name anything relative to itself.
  async #lookAtShell(
    file: SurveyedFile,
    { text, xml }: { readonly text: string; readonly xml: boolean },
  ): Promise<void> {
    const { appShell, errorPages } = selectRules(file.mount, file.path);
    const isShell = appShell?.file === file.path;
    if (!isShell && ![...errorPages.values()].includes(file.path)) return;
    const relative = findRelativeAddresses(await inSlices(readPage(text, xml)));
    if (relative.length === 0) return;
    const folder = addressOf(file.mount, file.path).replace(/[^/]*$/, "");
    const what = describeRelative(relative);
    this.#context.report(
      isShell ? "relative-in-shell" : "relative-in-error-page",
      file,
      isShell ? `It ${what}.` : `It answers for missing addresses in every folder, and ${what}.`,
      `<base href="${folder}">`,
    );
  }
}

/** What a survey wants of a page, one element after the other. */
class PageReader {
  readonly anchors = new AnchorReader();
  readonly scripts: Script[] = [];
  readonly #references: ReferenceReader;

  constructor(base: string) {
    this.#references = new ReferenceReader(base, true);
  }

  get references(): readonly Reference[] {
    return this.#references.references;
  }

  look(element: PageElement): void {
    this.#references.look(element);
    this.anchors.look(element);
    const { name, attributes, text } = element;
    if (name === "script")
      this.scripts.push({
        type: attributes.get("type")?.trim().toLowerCase() ?? "",
        source: attributes.get("src"),
        text,
      });
  }
}

function formOf({ path }: SurveyedFile, mediaType: string): Form | undefined {
  if (/^(?:text\/html|application\/xhtml\+xml|image\/svg\+xml)$/.test(mediaType)) return "page";
  if (mediaType === "text/css") return "style";
  if (/javascript$/.test(mediaType)) return "script";
  if (mediaType === "application/manifest+json" || /(?:^|\/)manifest\.json$/.test(path)) return "manifest";
  return /xml$/.test(mediaType) && /(?:^|\/)[\w.-]*sitemap[\w.-]*\.xml$/i.test(path) ? "sitemap" : undefined;
}
