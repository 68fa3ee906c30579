import { readCharset as readOwnCharset } from "../../core/media-types/charset.js";
import { isGzip } from "../../core/rules/codings.js";
import { removeSpans } from "../../core/text/spans.js";
import { findFlaw, isConvertedText } from "../../reading/contents/formats.js";
import { isPageInstead, isTextual } from "../../reading/contents/kinds.js";
import { findXmlMistake } from "../../reading/contents/xml.js";
import { readJson } from "../../reading/json.js";
import type { Reply } from "../ask/ask.js";
import type { Case } from "../case.js";
import { sameBytes } from "../checks/body.js";
import { readCharset, readContent, readMediaType, readText } from "../checks/content.js";
import { kindOf } from "../discover/kind.js";
import type { Sample, Sampled } from "../discover/sample.js";
import { findOtherDigest, lookAtLists, WANTS } from "./digests.js";
import { findOtherBuilds } from "./other-build.js";
import { again, asAdvice, demand, makeCase, type Pack, skipCase } from "./pack.js";

/** Contents compared with what they say they are: whole, in their charset, and themselves. */
export const content: Pack = (sample) =>
  sample.resources.length === 0
    ? [skipCase("contents", "the site answers no address with a file")]
    : [
        ...sample.resources.map(lookAt),
        ...findTwins(sample),
        ...findOtherBuilds(sample),
        ...lookAtLists(sample),
      ];

function lookAt(one: Sampled): Case {
  return makeCase(
    `${one.path} is complete, and is what it says`,
    again(one, WANTS),
    LOOKS.map(([expected, find]) => demand("content", expected, ({ reply }) => find(reply))),
    "an incomplete file, or one in another charset, is wrong for every visitor",
  );
}

type Find = (reply: Reply) => string | undefined;

const bytesOf = (reply: Reply): Uint8Array => {
  const read = readContent(reply);
  return read.ok ? read.bytes : new Uint8Array(0);
};
const textOf = (reply: Reply): string => (readText(reply) as { text?: string }).text ?? "";
const isText = (reply: Reply): boolean => isTextual(readMediaType(reply.headers));
const isJson = (reply: Reply): boolean =>
  /^application\/(?:.+\+)?json$/.test(readMediaType(reply.headers) ?? "");
const isXml = (reply: Reply): boolean =>
  /(?:[/+]xml)$/.test(readMediaType(reply.headers) ?? "") && kindOf(reply) !== "document";

const findEmpty: Find = (reply) =>
  reply.body.length === 0 &&
  !reply.isCut &&
  !["text", "other"].includes(kindOf(reply)) &&
  !/csv$/.test(readMediaType(reply.headers) ?? "")
    ? "an empty file"
    : undefined;

const findCoded: Find = (reply) => {
  const bytes = bytesOf(reply);
  return isText(reply) && isGzip(bytes)
    ? "bytes compressed with gzip, but Content-Encoding does not name it (or once too few)"
    : undefined;
};

// RFC 8259 §8.1: none before JSON.
const findMark: Find = (reply) => {
  const bytes = bytesOf(reply);
  return isJson(reply) && bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf
    ? "a byte order mark before the JSON, which many parsers refuse"
    : undefined;
};

// Encoding §4.2: the labels that browsers know.
const findCharset: Find = (reply) => {
  if (!isText(reply)) return undefined;
  const bytes = bytesOf(reply);
  const named =
    readCharset(reply.headers) ?? readOwnCharset(readMediaType(reply.headers) ?? "", bytes)?.charset;
  if (named !== undefined && !isKnownCharset(named)) return `the charset ${named}, which no browser knows`;
  const isUtf8 = isValidUtf8(bytes);
  const hasLetters = bytes.some((byte) => byte >= 0x80);
  if (!hasLetters) return undefined;
  const charset = (named ?? "utf-8").toLowerCase();
  if (/^utf-?8$/.test(charset))
    return isUtf8
      ? undefined
      : `bytes that are not UTF-8${named === undefined ? ", and no charset is named" : ", although it names that charset"}`;
  return isUtf8 && !/^utf-?16/.test(charset)
    ? `a text in UTF-8, although the charset ${named} is named`
    : undefined;
};

function isKnownCharset(name: string): boolean {
  try {
    return new TextDecoder(name) !== undefined;
  } catch {
    return false;
  }
}

function isValidUtf8(bytes: Uint8Array): boolean {
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes) !== undefined;
  } catch {
    return false;
  }
}

// Two bytes of a letter in UTF-8, each taken for its own letter.
const TWICE = /[\u00c3\u00c5\u00c4][\u0080-\u00bf]|\u00e2\u20ac[\u0098-\u009d\u2122\u0153\u201c\u201d]/g;

const findLost: Find = (reply) => {
  if (!isText(reply) || kindOf(reply) === "script") return undefined;
  const text = textOf(reply);
  const twice = text.match(TWICE) ?? [];
  if (twice.length >= 2) return `letters encoded twice as UTF-8, such as ${JSON.stringify(twice[0])}`;
  if (!isValidUtf8(bytesOf(reply))) return undefined;
  const lost = text.split("\ufffd").length - 1;
  return lost > 0 ? `${lost} letters that were lost, and replaced by U+FFFD` : undefined;
};

const findJson: Find = (reply) => {
  if (!isJson(reply) || reply.body.length === 0) return undefined;
  const read = readJson(textOf(reply).replace(/^\ufeff/, ""));
  if (read.ok) return undefined;
  const page = /^\s*<(?:!doctype|html)/i.test(textOf(reply)) ? ", but a page of HTML" : "";
  return `a text that ${read.problem}${page}`;
};

// XML §2.1.
const findXml: Find = (reply) => {
  if (!isXml(reply) || reply.body.length === 0) return undefined;
  const mistake = findXmlMistake(textOf(reply));
  return mistake === undefined ? undefined : `an XML text that is not well-formed: ${mistake}`;
};

const findCut: Find = (reply) => {
  const bytes = bytesOf(reply);
  const seen = { head: bytes, tail: bytes, sizeBytes: bytes.length };
  return findFlaw(readMediaType(reply.headers) ?? "", seen)?.text;
};

const findConverted: Find = (reply) => {
  const isConverted = !reply.isCut && isConvertedText(readMediaType(reply.headers) ?? "", bytesOf(reply));
  return isConverted ? "line ends that were converted, as if it were a text" : undefined;
};

const findPage: Find = (reply) => {
  const kind = kindOf(reply);
  if (kind === "document") return findPageFlaw(textOf(reply));
  return isPageInstead(readMediaType(reply.headers) ?? "", textOf(reply).slice(0, 200))
    ? `a page of HTML instead of a ${kind === "data" ? "data file" : kind}`
    : undefined;
};

function findPageFlaw(text: string): string | undefined {
  const first = text.indexOf("<");
  const before = text.slice(0, Math.max(0, first)).replace("\ufeff", "").trim();
  if (before !== "" && /^<(?:!doctype|html)/i.test(text.slice(first, first + 9)))
    return `text before the page begins: ${quote(before)}`;
  const lower = text.toLowerCase();
  const close = lower.lastIndexOf("</html>");
  const behind = close < 0 ? "" : removeSpans(text.slice(close + 7), "<!--", "-->").trim();
  if (behind !== "") return `text after the end of the page: ${quote(behind)}`;
  const open = text.lastIndexOf("<");
  if (open > text.lastIndexOf(">") && /^<[a-z!/]/i.test(text.slice(open, open + 2)))
    return `a page that ends inside a tag: ${quote(text.slice(open))}; it is incomplete`;
  const start = lower.indexOf("<title>");
  const title = start < 0 ? "" : text.slice(start + 7, Math.max(start + 7, lower.indexOf("</title>", start)));
  return /\{\{|<%|\$\{/.test(title) ? `a template that was not filled in: ${quote(title)}` : undefined;
}

const findOther: Find = (reply) => {
  const kind = kindOf(reply);
  if (kind !== "style" && kind !== "script") return undefined;
  const text = textOf(reply).slice(0, 256 * 1024);
  const marks = /^<{7} \S/m.exec(text);
  if (marks !== null) return "the marks of a merge that was not finished (<<<<<<<)";
  if (kind === "script") return undefined;
  const script =
    /^[ \t]*(?:import\s*[{"'*]|export\s+(?:const|default|function)\b|(?:const|let)\s+\w+\s*=|function\s+\w+\s*\()/m.exec(
      removeSpans(text, "/*", "*/"),
    );
  return script === null ? undefined : `a script instead of a style sheet: ${quote(script[0])}`;
};

const LOOKS: readonly (readonly [expected: string, find: Find])[] = [
  ["a file that is not empty", findEmpty],
  ["the bytes of its digests", findOtherDigest],
  ["uncompressed text, or Content-Encoding", findCoded],
  ["JSON without a byte order mark", findMark],
  ["valid JSON", findJson],
  ["a text in the named charset", findCharset],
  ["letters as they were written", findLost],
  ["a complete page", findPage],
  ["a complete XML text", findXml],
  ["what its type says", findOther],
  ["a whole file", findCut],
  ["the bytes as they were", findConverted],
];

/** What is wrong with the content of an answer, in words. */
export function listFlaws(reply: Reply): string[] {
  return LOOKS.flatMap(([, find]) => find(reply) ?? []);
}

// The same file twice may be meant; often the one was copied over the other.
function findTwins({ resources }: Sample): Case[] {
  const same = (a: Sampled, b: Sampled): boolean =>
    a.kind === b.kind &&
    a.reply.body.length >= 64 &&
    sameBytes(a.reply.body, b.reply.body) &&
    !isSamePlace(a.path, b.path);
  return resources.flatMap((one, index) => {
    const twin = resources.slice(0, index).find((other) => same(other, one));
    if (twin === undefined) return [];
    const check = demand("content", `a different one from ${twin.path}`, ({ reply }) =>
      sameBytes(reply.body, twin.reply.body) ? "the same bytes" : undefined,
    );
    const asked = makeCase(
      `${one.path} is not the same file as ${twin.path}`,
      one.question,
      [check],
      "one may have been copied over the other",
    );
    return [
      asAdvice(asked, "Two addresses have the same bytes: check that neither was copied over the other."),
    ];
  });
}

const isSamePlace = (a: string, b: string): boolean =>
  a.replace(/index\.x?html?$/, "") === b.replace(/index\.x?html?$/, "") ||
  a.split("?")[0] === b.split("?")[0];

function quote(text: string): string {
  const line = text.slice(0, 200).replace(/\s+/g, " ").trim();
  return JSON.stringify(line.length > 60 ? `${line.slice(0, 59)}…` : line);
}
