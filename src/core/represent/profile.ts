import { formatAttachment } from "../fields/disposition.js";
import { DEPENDS, Fields } from "../fields/fields.js";
import { formatHttpDate } from "../fields/http-date.js";
import { CHARSET_BYTES, readCharset } from "../media-types/charset.js";
import { decideTypeByContent, HEADER_BYTES } from "../media-types/content.js";
import {
  decideMediaType,
  formatContentType,
  isCompressible,
  takesCharset,
} from "../media-types/media-type.js";
import { formatSegment } from "../request/target.js";
import { SHELL_VARY } from "../resolve/app-shell.js";
import { CODINGS, isGzip, mayBePacked } from "../rules/codings.js";
import { type CachingRule, filterRules, findRule, rulesForNames } from "../rules/file-rules.js";
import type { JudgedName } from "../rules/names.js";
import type { Protection } from "../rules/protect.js";
import type { Rules } from "../rules/rules.js";
import { languageInName, type Variant } from "../rules/variants.js";
import { keyAt } from "../text/origin.js";
import { formatCount } from "../text/size.js";
import {
  type Answers,
  type Described,
  type FileProfile,
  type KnownFiles,
  keepProfile,
  recallFile,
  recallProfile,
} from "./known-files.js";
import { decideTag, hasMeaning } from "./tag.js";

/** Compressing less is not worth a coding; more would hold up its first reader. In bytes. */
const COMPRESS_FROM = 1024;
const COMPRESS_UP_TO = 8 * 1024 * 1024;

/** Describes a file under its rules. Reads of it only what a name without meaning, a text's charset or a digest needs. */
export function describeFile(
  known: KnownFiles,
  described: Described,
  nowSeconds: number,
): FileProfile | Promise<FileProfile> {
  const profile = recallProfile(known, described);
  return profile?.tag.lasts && isKnown(profile) ? profile : makeProfile(known, described, nowSeconds);
}

// What is known of its name may stand no more although the file does.
const isKnown = ({ name }: FileProfile): boolean => name?.proof === undefined || name.proof.holds();

async function makeProfile(
  known: KnownFiles,
  described: Described,
  nowSeconds: number,
): Promise<FileProfile> {
  const { path, file, mount, rules, answers, variant } = described;
  const seen = known.get(described.address);
  const tag = await decideTag(known, described, nowSeconds);
  const before = recallProfile(known, described);
  if (before?.tag.base === tag.base && before.tag.lasts === tag.lasts && isKnown(before)) return before;
  const name =
    rulesForNames(rules).length === 0
      ? undefined
      : await mount.names?.judgeFile(described, seen, recallFile(known, described)?.digest?.sha256);
  const fingerprinted = name?.verdict.fingerprinted === true;
  const modifiedSeconds = Number(file.metadata.modifiedNs / 1_000_000_000n);
  const { contentType, because, rule } = await decideContentType(described);
  const isPacked = mayBePacked(path, contentType) && isGzip(await file.read(0, 2));
  const cachingRule = findRule(rules.caching, path, fingerprinted);
  const protection = (await rules.protect?.describe(file, contentType)) ?? UNPROTECTED;
  const preloads = await findPreloads(described, contentType);
  const codings = decideCodings(isPacked ? "" : contentType, file.metadata.sizeBytes, rules, cachingRule);
  const profile: FileProfile = {
    tag,
    ...decideDate(described, modifiedSeconds, nowSeconds),
    contentType,
    type: Fields.of(["Content-Type", contentType, because, rule]),
    ...codings,
    caching: decideCaching(cachingRule, rules, answers, name),
    name,
    // A field of the developer's own stands.
    ownFields: collectHeaders(path, rules, fingerprinted)
      .supply(protection.fields)
      .supply(rules.noVarySearch ?? Fields.NONE),
    unprotected: protection.problems,
    preloads,
    early: preloads.length === 0 ? preloads : await rules.preloads!.findFresh(preloads, described),
    disposition: decideDisposition(path, rules, fingerprinted),
    contentLocation: nameFile(path, answers, variant),
    ofContent: decideLanguage(path, rules, variant).supply(isPacked ? PACKED : Fields.NONE),
    vary: decideVary(answers, codings.codings.length > 0, variant),
    tagSuffix: variant?.isOther ? `-${variant.of}` : "",
    representations: new Map(),
    codingVersion: recallFile(known, described)?.codingVersion ?? file.metadata,
  };
  if (modifiedSeconds <= nowSeconds || file.metadata.digest !== undefined)
    keepProfile(known, described, profile);
  return profile;
}

function decideDate(
  { file: { metadata }, rules }: Described,
  modifiedSeconds: number,
  nowSeconds: number,
): Pick<FileProfile, "lastModified" | "lastModifiedSeconds"> {
  if (!hasMeaning(metadata, rules)) return { lastModified: Fields.NONE, lastModifiedSeconds: undefined };
  // RFC 9110 §8.8.2.1: a date in the future is replaced by the time of the message.
  const lastModifiedSeconds = Math.min(modifiedSeconds, nowSeconds);
  const because = "the file's modification time";
  const lastModified = Fields.of(["Last-Modified", formatHttpDate(lastModifiedSeconds), because]);
  return { lastModified, lastModifiedSeconds };
}

async function decideContentType({ path, file, rules }: Described): Promise<{
  contentType: string;
  because: string;
  rule: string | undefined;
}> {
  const byName = decideMediaType(path, rules.mediaTypes);
  const start = async (length: number): Promise<Uint8Array> =>
    file.read(0, Math.min(length, file.metadata.sizeBytes));
  const type = byName?.type ?? decideTypeByContent(await start(HEADER_BYTES));
  const because =
    byName === undefined
      ? "its first bytes, because its name says nothing"
      : byName.said === undefined
        ? `.${byName.extension} in the built-in table`
        : `.${byName.extension} in mediaTypes of ${byName.said.words}`;
  const rule = byName?.said && keyAt(byName.said, `mediaTypes[".${byName.extension}"]`);
  if (rules.charset === "" || !takesCharset(type)) return { contentType: type, because, rule };
  // What a text says of itself goes before what is said of all texts.
  const own = readCharset(type, await start(CHARSET_BYTES));
  const charset = own?.charset ?? rules.charset;
  const said = own?.because ?? rules.origins.charset.words;
  return { contentType: formatContentType(type, charset), because: `${because}; charset: ${said}`, rule };
}

const PACKED = Fields.of(["Content-Encoding", "gzip", "its bytes are compressed"]);
const UNPROTECTED: Protection = { fields: Fields.NONE, problems: [] };

async function findPreloads(
  { file, rules: { preloads } }: Described,
  contentType: string,
): Promise<readonly string[]> {
  if (preloads === undefined || !/html/.test(contentType)) return [];
  return preloads.read(await file.read(0, Math.min(preloads.readUpTo, file.metadata.sizeBytes)));
}

function decideCodings(
  contentType: string,
  sizeBytes: number,
  { codings: { prebuilt, compress } }: Rules,
  cachingRule: CachingRule | undefined,
): Pick<FileProfile, "codings" | "compresses" | "uncoded"> {
  const plain = (uncoded: string) => ({ codings: [], compresses: false, uncoded });
  if (!isCompressible(contentType)) return plain("its type does not compress well");
  if (!compress && prebuilt.length === 0) return plain("codings are off");
  const refusal = !compress
    ? "it is not compressed on the fly"
    : cachingRule?.noTransform
      ? "its caching rule says no-transform"
      : sizeBytes < COMPRESS_FROM
        ? `it is smaller than ${formatCount(COMPRESS_FROM)} bytes`
        : sizeBytes > COMPRESS_UP_TO
          ? `it is larger than ${COMPRESS_UP_TO / 1024 / 1024} MiB`
          : undefined;
  if (refusal === undefined)
    return { codings: [...new Set([...prebuilt, ...CODINGS])], compresses: true, uncoded: undefined };
  return prebuilt.length === 0
    ? plain(refusal)
    : { codings: prebuilt, compresses: false, uncoded: undefined };
}

const revalidate = (why: string): Fields =>
  Fields.of(["Cache-Control", "no-cache", `${why}: a copy is revalidated each time`]);
const REVALIDATE = revalidate("no caching rule");
const NO_RULE_MATCHES = revalidate("no caching rule matches");
const CODING_VARY = Fields.of(["Vary", "Accept-Encoding", DEPENDS]);
const VARIANT_VARY = {
  Accept: Fields.of(["Vary", "Accept", "the file exists in several formats"]),
  "Accept-Language": Fields.of(["Vary", "Accept-Language", "the file exists in several languages"]),
};
const SHELL = revalidate("an app shell answers many addresses");

function decideCaching(
  rule: CachingRule | undefined,
  { caching }: Rules,
  answers: Answers,
  name: JudgedName | undefined,
): Fields {
  const fields = rule?.fields ?? (caching.length === 0 ? REVALIDATE : NO_RULE_MATCHES);
  const explained = name !== undefined && rule?.asksNames !== false ? name.explain(fields) : fields;
  return answers === "deep links" && rule !== undefined ? withoutLifetime(explained) : explained;
}

// What answers many addresses is kept under none of them, whatever a rule says; one that lets nobody use a copy unasked stands.
function withoutLifetime(fields: Fields): Fields {
  const asks = (name: string): boolean => /^no-(?:cache|store)\b/.test(fields.get(name) ?? "no-cache");
  if (!asks("Cache-Control")) return SHELL;
  return asks("CDN-Cache-Control") ? fields : fields.remove("CDN-Cache-Control");
}

/** The fields that the rules add to a file of a path: every rule that matches has its say, and a later one replaces an earlier one's. */
export function collectHeaders(path: string, { headers }: Rules, fingerprinted: boolean): Fields {
  let fields = Fields.NONE;
  for (const rule of filterRules(headers, path, fingerprinted)) {
    for (const line of rule.fields) fields = fields.replace(line.name, line.value, line.because, line.rule);
  }
  return fields;
}

// RFC 9110 §8.7, relative to the address that was asked for: under a prefix that a proxy stripped it holds too.
function nameFile(path: string, answers: Answers, variant: Variant | undefined): Fields {
  // What answers deep links lies anywhere, as seen from them.
  if (answers === "deep links" || (answers === "own address" && !variant?.isOther)) return Fields.NONE;
  const name = formatSegment(path.slice(path.lastIndexOf("/") + 1));
  const because = variant?.isOther
    ? `the variant's own address, chosen by ${variant.field}`
    : "the file's own address, found through an implied extension";
  return Fields.of(["Content-Location", `./${name}`, because]);
}

// RFC 9110 §8.5: of originals it is said where there are others beside them.
function decideLanguage(path: string, { variants, origins }: Rules, variant: Variant | undefined): Fields {
  if (variants === undefined || variants.languages.length === 0) return Fields.NONE;
  const language = variant?.field === "Accept-Language" ? variant.of : languageInName(path, variants);
  return language === undefined
    ? Fields.NONE
    : Fields.of([
        "Content-Language",
        language,
        `variants: ${origins.variants.words}`,
        origins.variants.place,
      ]);
}

function decideVary(answers: Answers, hasCodings: boolean, variant: Variant | undefined): Fields {
  return (answers === "deep links" ? SHELL_VARY : Fields.NONE)
    .supply(variant === undefined ? Fields.NONE : VARIANT_VARY[variant.field])
    .supply(hasCodings ? CODING_VARY : Fields.NONE);
}

function decideDisposition(path: string, { downloads }: Rules, fingerprinted: boolean): Fields {
  const rule = findRule(downloads, path, fingerprinted);
  if (rule === undefined) return Fields.NONE;
  return Fields.of(["Content-Disposition", formatAttachment(rule.name ?? path), rule.label, rule.rule]);
}
