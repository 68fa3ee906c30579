import fc from "fast-check";
import { expect, test } from "vitest";
import { parseDuration, parseSpokenDuration } from "../src/config/durations.js";
import { compileFileRule } from "../src/config/patterns.js";
import { evaluatePreconditions } from "../src/core/answer/preconditions.js";
import { decideRange, matchesIfRange } from "../src/core/answer/range.js";
import { chooseMediaType, prefersHtml } from "../src/core/fields/accept.js";
import { parseCacheControl } from "../src/core/fields/cache-control.js";
import { charsetOf, mediaTypeOf } from "../src/core/fields/content-type.js";
import { formatAttachment } from "../src/core/fields/disposition.js";
import { parseForwarded, parseXForwarded } from "../src/core/fields/forwarded.js";
import { foldLetters } from "../src/core/listing/filter.js";
import { makeNameKey } from "../src/core/listing/order.js";
import { parseListingQuery } from "../src/core/listing/query.js";
import { readCharset } from "../src/core/media-types/charset.js";
import { mediaTypeByName } from "../src/core/media-types/media-type.js";
import { isMediaType, parseTypesText } from "../src/core/media-types/text-format.js";
import { rankCodings } from "../src/core/represent/coding.js";
import { formatPath, parseTarget, stripPrefix } from "../src/core/request/target.js";
import { compileCrossOrigin } from "../src/core/rules/cross-origin.js";
import { foldName } from "../src/core/text/fold-name.js";
import { escapeHtml } from "../src/core/text/html.js";
import { DEFAULT_ORIGIN } from "../src/core/text/origin.js";
import { printable, showName } from "../src/core/text/printable.js";
import { AddressNames } from "../src/reading/builds/by-address.js";
import { listArchiveNames } from "../src/reading/contents/archive-names.js";
import { extensionOf } from "../src/reading/contents/kinds.js";
import { readPictureNotes } from "../src/reading/contents/picture-notes.js";
import { findSecret, isServerScript } from "../src/reading/contents/secrets.js";
import { extractImports, extractStyleLinks, readImportMap } from "../src/reading/links.js";
import { findContents, findNeeds } from "../src/reading/pages/needs.js";
import { readPage } from "../src/reading/pages/page.js";
import { findPreloads } from "../src/reading/pages/preloads.js";
import { findReferences as findNamed, findRelativeAddresses } from "../src/reading/pages/references.js";
import { scanHtml } from "../src/reading/pages/scan-html.js";
import { atOnce } from "../src/reading/slices.js";
import { decodeText } from "../src/reading/text.js";
import { makeBaseline } from "../src/testing/accepted.js";
import { readMessage } from "../src/testing/ask/message.js";
import { describeBody, describeFirstDifference } from "../src/testing/checks/body.js";
import { parseCachingPhrase } from "../src/testing/checks/caching.js";
import { listCodings } from "../src/testing/checks/content.js";
import { readDigest } from "../src/testing/checks/digest.js";
import { decideFreshness } from "../src/testing/checks/freshness.js";
import { readBoundary, readParts } from "../src/testing/checks/parts.js";
import { findReferences } from "../src/testing/discover/crawl.js";
import { kindOf } from "../src/testing/discover/kind.js";
import { listFlaws } from "../src/testing/packs/content.js";
import { findLeak } from "../src/testing/packs/leaks.js";
import type { CaseResult } from "../src/testing/run.js";
import { processorSeconds } from "./helpers.js";

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const reply = (text: string, type: string) => ({
  status: 200,
  headers: { "content-type": type },
  body: bytes(text),
  inside: undefined,
});
const TAG = { weak: false, opaque: '"a"' };
const VALIDATORS = { tag: TAG, lastModifiedSeconds: 5 };
const RULES = ["**/a/**/*.txt", "*(*a)b", "**/*a*/**/b", "@(a|b*)/+(ab|a)", "{a,b}*{c,d}*"].map((files) =>
  compileFileRule(files, DEFAULT_ORIGIN, "rule"),
);
const rangesOf = (text: string): string => `bytes=${text}`;

/** Whatever reads what a stranger sent: a client's fields and target, a server's fields and pages, names and texts of files. */
const READERS: Record<string, (text: string) => unknown> = {
  "Accept, of forms": (text) => chooseMediaType(text, ["text/html", "application/json"]),
  "Accept, of a navigation": prefersHtml,
  "Accept-Encoding": (text) => rankCodings(text, ["br", "gzip"]),
  Range: (text) => [decideRange(text, 1000), decideRange(rangesOf(text), 1000)],
  "If-Range": (text) => [matchesIfRange(text, TAG, 5, 9), matchesIfRange(`"${text}`, TAG, 5, 9)],
  "If-Match, If-None-Match": (text) => [
    evaluatePreconditions({ "if-match": text }, VALIDATORS, 9),
    evaluatePreconditions({ "if-none-match": text }, VALIDATORS, 9),
  ],
  "dates of conditions": (text) => evaluatePreconditions({ "if-modified-since": text }, VALIDATORS, 9),
  Forwarded: (text) => [parseForwarded(text), parseXForwarded({ for: text, proto: text, host: text })],
  Origin: (text) => compileCrossOrigin(["https://a.invalid"], DEFAULT_ORIGIN).fieldsFor(text),
  "the target": (text) => [parseTarget(text), parseTarget(`/${text}`), parseTarget(`http://a/${text}`)],
  "a prefix of it": (text) => stripPrefix(`/${text}`, "/a/b"),
  "a listing's query": (text) =>
    [text, `?${text}`, `?filter=${text}`].map((query) =>
      parseListingQuery(query, { order: "name", nameFilter: true }),
    ),
  "a path, held against patterns": (text) => RULES.map(({ matches }) => matches(foldName(text), false)),
  "a name, for its type": (text) => [
    mediaTypeByName(text, new Map()),
    new AddressNames([text, `a-${text}`]).patternOf(text),
    extensionOf(text),
  ],
  "a name, for its place": (text) => [makeNameKey(text), foldName(text), foldLetters(text)],
  "a name, as a page shows it": (text) => [showName(text), escapeHtml(text)],
  "a name, as a terminal shows it": printable,
  "a name, as an address": formatPath,
  "a name, as one to save under": formatAttachment,
  "a file, for its charset": (text) =>
    ["text/html", "text/css", "application/xml"].map((type) => readCharset(type, bytes(text))),
  "Cache-Control": (text) => [parseCacheControl(text), decideFreshness({ "cache-control": text })],
  "Content-Type": (text) => [
    mediaTypeOf(text),
    charsetOf(text),
    charsetOf(`text/html;${text}`),
    isMediaType(text),
  ],
  "Content-Encoding": (text) => listCodings({ "content-encoding": text }),
  "a page": (text) =>
    [text, `<a href="${text}`, `<img srcset="${text}">`, `<p style='${text}' onclick='${text}'>`].map(
      (html) => {
        const page = atOnce(readPage(html, false));
        return [
          findNamed(page, "http://a.invalid/"),
          findPreloads(page),
          findRelativeAddresses(page),
          findNeeds(findContents(page)),
        ];
      },
    ),
  "a page, scanned": (text) =>
    [text, `<a href="${text}`, `<script>${text}`, `<noscript>${text}`, `<svg>${text}`, `<!--${text}`].map(
      (html) => scanHtml(html, () => {}),
    ),
  "a text, for secrets": (text) =>
    [text, `kind: Config\n${text}`, `"auths": {${text}`, `-----BEGIN ${text}`].map((one) => [
      findSecret(one, true),
      isServerScript(one),
    ]),
  "an archive, a picture and a script, for what they tell": (text) => [
    listArchiveNames(bytes(`PK\x03\x04${text}`), bytes(text)),
    readPictureNotes(bytes(`\xff\xd8${text}`)),
    extractImports(text),
    readImportMap(text),
  ],
  "an XML document": (text) =>
    [text, `<a>${text}`, `<?xml-stylesheet ${text}?><a b="${text}"/>`].map((xml) =>
      findNeeds(findContents(atOnce(readPage(xml, true)))),
    ),
  "a file's charset": (text) =>
    ["utf-8", "latin1", "x-user-defined", "none"].map((charset) => decodeText(bytes(text), charset)),
  "a style sheet": (text) => [extractStyleLinks(text), extractStyleLinks(`a{background:url(${text}`)],
  "a body, in words": (text) => [
    describeBody(reply(text, "text/html")),
    describeFirstDifference(bytes(text), bytes(`${text}a`)),
    kindOf(reply(text, "")),
  ],
  "a file of any kind, for what is wrong with it": (text) =>
    ["text/html", "text/css", "application/json", "application/xml", "image/png"].map((type) =>
      listFlaws(reply(text, type)),
    ),
  "a page, a script and a manifest, for what they name": (text) =>
    [reply(text, "text/html"), reply(text, "text/javascript"), { ...reply("", ""), headers: { link: text } }]
      .map((one) => findReferences(one, "http://a.invalid/"))
      .concat(findReferences(reply(text, "application/json"), "http://a.invalid/a.webmanifest")),
  "an error page, for what it tells": findLeak,
  "an answer of several parts": (text) => [
    readBoundary(text),
    readBoundary(`multipart/byteranges; boundary=${text}`),
    readParts(bytes(`--a\r\n${text}`), "a"),
    readParts(bytes(text.repeat(2)), text.slice(0, 2)),
  ],
  "a message, byte by byte": (text) => [
    readMessage(Buffer.from(text), "GET", true),
    readMessage(Buffer.from(`HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\n${text}`), "GET", true),
    readMessage(Buffer.from(`HTTP/1.1 200 OK\r\n${text}\r\n\r\n`), "GET", true),
  ],
  "a name with stars, held against a text": (text) =>
    makeBaseline([
      { case: text, reason: "a" },
      { case: "*a*a*b", reason: "a" },
    ]).judge({ outcome: "failed", case: { name: text }, exchanges: [] } as unknown as CaseResult),
  "a file of media types": parseTypesText,
  "durations and digests": (text) => [
    parseDuration(text),
    parseSpokenDuration(text),
    parseCachingPhrase(text),
    parseCachingPhrase(`fresh for ${text}`),
    readDigest(text),
  ],
};

/** What makes a reader go back: openings without an end, separators and blanks without anything between, escapes, and mixtures. */
const UNITS = [
  ` ~\t~,~;~"~\\~\\"~"\\~/~//~a/~.~..~../~%~%2~%25~%41~a~0~é~\u0301~\ud800~\n~\r\n~-~=~q=~;q=0.~,a;~a="~",~W/~"",~0-0,~-1,`,
  ` ,~a ~url(~url('~url( ~/*~*/~@import ~import ~<script~\r\n--a~at (/~<~<a ~<a href=~<!--~<meta ~<meta charset=~<?xml ~&`,
  `&amp~&#~aab~ab~a.txt/~#~?~&order=~()~(~[~{~\u202e`,
].flatMap((line) => line.split("~"));

const LONG = 64 * 1024;
/** A longer path is held against no pattern. */
const LONGEST: Record<string, number> = { "a path, held against patterns": 4096 };
/**
 * In seconds of processor time, whatever else the machine does. A reader whose work is linear needs a hundredth of it; one whose work
 * is squared, ten times as much.
 */
const FAR_TOO_LONG = 1;

const lengthen = (unit: string, length: number): string =>
  unit.repeat(Math.ceil(length / unit.length)).slice(0, length);

test.each(Object.entries(READERS))(
  "the work is linear in the length: %s",
  { timeout: 300_000 },
  (name, read) => {
    const most = LONGEST[name] ?? LONG;
    const isSlow = (head: string, unit: string, tail: string): boolean =>
      processorSeconds(() => read(`${head}${lengthen(unit, most)}${tail}`)) > FAR_TOO_LONG;
    expect(UNITS.filter((unit) => isSlow("", unit, "") || isSlow("a", unit, "a"))).toEqual([]);
    const piece = fc.string({ unit: fc.constantFrom(...UNITS), minLength: 1, maxLength: 4 });
    fc.assert(
      fc.property(piece, piece, piece, (head, unit, tail) => !isSlow(head, unit, tail)),
      { numRuns: 12 },
    );
  },
);
