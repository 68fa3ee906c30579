import { extractSitemapLinks } from "../../reading/links.js";
import { findReferencesIn, type Reference } from "../../reading/pages/references.js";
import { listBare } from "../links/modules.js";
import { ORIGIN } from "../links/targets.js";
import { addressOf, type SurveyContext, type SurveyedFile } from "../survey-context.js";
import type { Form, Names } from "./notes.js";
import { readNamesInPage } from "./page.js";

const NONE: Omit<Names, "form"> = {
  references: [],
  bare: [],
  mapped: [],
  hasScripts: false,
  anchors: undefined,
};

/** Reads which other files a file names; undefined for one of a form that names none. */
export async function readNames(
  context: SurveyContext,
  file: SurveyedFile,
  { mediaType, text }: { readonly mediaType: string; readonly text: string },
): Promise<Names | undefined> {
  const form = formOf(file, mediaType);
  if (form === undefined) return undefined;
  const base = ORIGIN + addressOf(file.mount, file.path);
  if (form === "page") return { form, ...(await readNamesInPage(context, file, { mediaType, text, base })) };
  if (form === "sitemap") return { ...NONE, form, references: readSitemap(text) };
  const references = findReferencesIn(text, form, base);
  return { ...NONE, form, references, bare: form === "script" ? listBare(text) : [] };
}

function formOf({ path }: SurveyedFile, mediaType: string): Form | undefined {
  if (/^(?:text\/html|application\/xhtml\+xml|image\/svg\+xml)$/.test(mediaType)) return "page";
  if (mediaType === "text/css") return "style";
  if (/javascript$/.test(mediaType)) return "script";
  if (mediaType === "application/manifest+json" || /(?:^|\/)manifest\.json$/.test(path)) return "manifest";
  return /xml$/.test(mediaType) && /(?:^|\/)[\w.-]*sitemap[\w.-]*\.xml$/i.test(path) ? "sitemap" : undefined;
}

// A sitemap names addresses with the host of the site: they are read as addresses of this one.
function readSitemap(xml: string): Reference[] {
  return extractSitemapLinks(xml)
    .filter((address) => URL.canParse(address))
    .map((address) => {
      const { pathname, search } = new URL(address);
      return {
        url: ORIGIN + pathname + search,
        fragment: "",
        written: address,
        element: "a",
        width: undefined,
      };
    });
}
