import type { Trace } from "../explain/trace.js";
import { parseAccept, weigh } from "../fields/accept.js";
import { fallBack, parseAcceptLanguage } from "../fields/accept-language.js";
import { mediaTypeByName } from "../media-types/media-type.js";
import { fieldValue, type RequestHeaders } from "../request/request.js";
import type { Rules } from "../rules/rules.js";
import { languageInName, nameInFormat, nameInLanguage, type Variant } from "../rules/variants.js";
import type { OpenedFile } from "../source.js";
import type { OpenFiles } from "./open-files.js";

/** A file that answers, and what it is beside its variants, where it has some. */
export interface VariantFile {
  readonly path: string;
  readonly file: OpenedFile;
  readonly variant?: Variant;
}

/** What the choice is made with. */
export interface VariantContext {
  readonly files: OpenFiles;
  readonly rules: Rules;
  readonly headers: RequestHeaders;
  readonly trace: Trace | undefined;
}

/**
 * Chooses among a file and those beside it that say the same: a picture in another format by Accept (RFC 9110 §12.5.1), a document in
 * another language by Accept-Language (§12.5.4, RFC 4647 §3.4). The original is what everybody gets who asks for nothing else: never 406.
 */
export async function chooseVariant(context: VariantContext, original: VariantFile): Promise<VariantFile> {
  const { rules } = context;
  const { variants, mediaTypes } = rules;
  if (variants === undefined || !original.path.includes(".", original.path.lastIndexOf("/") + 2))
    return original;
  const type = mediaTypeByName(original.path, mediaTypes);
  if (type.startsWith("image/")) {
    // What is asked for in one of the formats is that itself.
    const isVariant = variants.formats.some((format) => original.path.endsWith(`.${format}`));
    return variants.formats.length === 0 || isVariant ? original : chooseFormat(context, original, type);
  }
  return variants.languages.length === 0 ||
    !isDocument(type) ||
    languageInName(original.path, variants) !== undefined
    ? original
    : chooseLanguage(context, original);
}

const isDocument = (type: string): boolean =>
  /^(?:text\/(?:html|plain|markdown)|application\/(?:xhtml\+xml|pdf))$/.test(type);

// Only a format that the client names is sent: `image/*` is what old browsers say, too.
async function chooseFormat(
  context: VariantContext,
  original: VariantFile,
  originalType: string,
): Promise<VariantFile> {
  const { files, rules, headers, trace } = context;
  const accept = fieldValue(headers, "accept");
  const ranges = parseAccept(accept ?? "");
  const own = accept === undefined ? 1 : weigh(originalType, ranges).weight;
  const weights: string[] = [];
  let best: { file: VariantFile; weight: number; format: string } | undefined;
  let hasOthers = false;
  for (const format of rules.variants!.formats) {
    const path = nameInFormat(original.path, format);
    const type = mediaTypeByName(path, rules.mediaTypes);
    const { weight, specificity } = weigh(type, ranges);
    const isNamed = specificity === 2 && weight > 0;
    // Of those that this client cannot get, one is enough to know that others may.
    if (!isNamed && hasOthers && trace === undefined) continue;
    const candidate = await files.open(path, "variant");
    if (candidate.kind !== "file") continue;
    hasOthers = true;
    weights.push(`${path} ${isNamed ? weight : "not named"}`);
    if (isNamed && weight >= own && weight > (best?.weight ?? 0))
      best = { file: { path, file: candidate.file }, weight, format };
  }
  if (!hasOthers) return original;
  trace?.push({
    stage: "variant",
    field: "Accept",
    weights: [...weights, `${original.path} ${own}`],
    chosen: best?.file.path ?? original.path,
  });
  const extension = original.path.slice(original.path.lastIndexOf(".") + 1).toLowerCase();
  return best === undefined
    ? { ...original, variant: { field: "Accept", of: extension, isOther: false } }
    : { ...best.file, variant: { field: "Accept", of: best.format, isOther: true } };
}

async function chooseLanguage(context: VariantContext, original: VariantFile): Promise<VariantFile> {
  const { files, rules, headers, trace } = context;
  const [own, ...others] = rules.variants!.languages as [string, ...string[]];
  const opened = new Map<string, VariantFile | undefined>();
  const open = async (language: string): Promise<VariantFile | undefined> => {
    if (!opened.has(language)) {
      const candidate = await files.open(nameInLanguage(original.path, language), "variant");
      opened.set(
        language,
        candidate.kind === "file" ? { path: candidate.path, file: candidate.file } : undefined,
      );
    }
    return opened.get(language);
  };
  const ranges = parseAcceptLanguage(fieldValue(headers, "accept-language") ?? "");
  const wanted = [...new Set(ranges.flatMap(({ range }) => fallBack(range)))];
  let chosen: { language: string; file: VariantFile } | undefined;
  for (const language of wanted) {
    if (language === own) break;
    const file = others.includes(language) ? await open(language) : undefined;
    if (file === undefined) continue;
    chosen = { language, file };
    break;
  }
  let hasOthers = chosen !== undefined;
  for (const language of others) {
    if (hasOthers && trace === undefined) break;
    if ((await open(language)) !== undefined) hasOthers = true;
  }
  if (!hasOthers) return original;
  const there = others.filter((language) => opened.get(language) !== undefined);
  trace?.push({
    stage: "variant",
    field: "Accept-Language",
    weights: [own, ...there].map((language) => `${language} ${weightOf(language, ranges)}`),
    chosen: chosen?.file.path ?? original.path,
  });
  return chosen === undefined
    ? { ...original, variant: { field: "Accept-Language", of: own, isOther: false } }
    : { ...chosen.file, variant: { field: "Accept-Language", of: chosen.language, isOther: true } };
}

function weightOf(language: string, ranges: ReturnType<typeof parseAcceptLanguage>): string {
  const found = ranges.find(({ range }) => fallBack(range).includes(language));
  return found === undefined ? "not named" : `${found.weight} (${found.range})`;
}
