import { describeRelative } from "../../config/choosing/relative-addresses.js";
import { selectRules } from "../../core/rules/mount.js";
import { isXml } from "../../core/rules/protect.js";
import { readImportMap } from "../../reading/links.js";
import type { PageElement } from "../../reading/pages/element.js";
import { readPage } from "../../reading/pages/page.js";
import { findRelativeAddresses, type Reference, ReferenceReader } from "../../reading/pages/references.js";
import { scanHtml } from "../../reading/pages/scan-html.js";
import { inSlices } from "../../reading/slices.js";
import { AnchorReader } from "../links/anchors.js";
import { listBare } from "../links/modules.js";
import { addressOf, type SurveyContext, type SurveyedFile } from "../survey-context.js";
import type { Names } from "./notes.js";

/** What a browser cannot run as written. */
const UNBUILT = /\.(?:tsx?|jsx|vue|svelte)(?:[?#].*)?$/i;

/** Reads what a page names, and reports what is wrong with how it names it. `base` is its own address. */
export async function readNamesInPage(
  context: SurveyContext,
  file: SurveyedFile,
  { mediaType, text, base }: { readonly mediaType: string; readonly text: string; readonly base: string },
): Promise<Omit<Names, "form">> {
  const xml = isXml(mediaType);
  let page = new PageReader(base);
  if (xml || !scanHtml(text, (element) => page.look(element))) {
    page = new PageReader(base);
    for (const element of (await inSlices(readPage(text, xml))).elements) page.look(element);
  }
  const { references, scripts } = page;
  reportUnbuilt(context, file, scripts);
  await lookAtShell(context, file, { text, xml });
  return {
    references,
    bare: scripts.flatMap(({ type, text: script }) => (type === "module" ? listBare(script) : [])),
    mapped: scripts.flatMap(({ type, text: map }) =>
      type === "importmap" ? readImportMap(map).map(({ name }) => name) : [],
    ),
    hasScripts: scripts.length > 0,
    anchors: /html/.test(mediaType) ? page.anchors.list() : undefined,
  };
}

/** A script element of a page. */
interface Script {
  /** In lower case; "" where the page gives none. */
  readonly type: string;
  readonly source: string | undefined;
  readonly text: string;
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

// A page that loads what a build has to make first.
function reportUnbuilt(context: SurveyContext, file: SurveyedFile, scripts: readonly Script[]): void {
  const loaded = scripts.map(({ source = "" }) => source).find((written) => UNBUILT.test(written));
  if (loaded === undefined) return;
  context.report(
    "not-built",
    file,
    `It loads ${loaded}, which browsers cannot run unbuilt: the page stays blank.`,
    "npm run build, then serve its output folder",
  );
}

// A document that is sent for addresses in several folders must not name anything relative to itself.
async function lookAtShell(
  context: SurveyContext,
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
  context.report(
    isShell ? "relative-in-shell" : "relative-in-error-page",
    file,
    isShell ? `It ${what}.` : `It answers for missing addresses in every folder, and ${what}.`,
    `<base href="${folder}">`,
  );
}
