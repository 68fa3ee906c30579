import { readCharset as readOwnCharset } from "../../core/media-types/charset.js";
import { decideTypeByContent, HEADER_BYTES } from "../../core/media-types/content.js";
import { type AddedType, decideMediaType } from "../../core/media-types/media-type.js";
import { unescapeText } from "../../core/text/unescape.js";
import { extensionOf, fits, isSameType } from "../../reading/contents/kinds.js";
import { readCharset, readContent, readMediaType } from "../checks/content.js";
import { checkField } from "../checks/field.js";
import type { Sampled } from "../discover/sample.js";
import { asAdvice, demand, get, makeCase, type Pack } from "./pack.js";

const NO_TYPES = new Map<string, AddedType>();

/** Media types compared with names and contents (RFC 9110 §8.3, MIME Sniffing, HTML). */
export const types: Pack = (sample) => [
  ...sample.resources.flatMap(lookAt),
  makeCase(
    "a missing address has a type too",
    get(sample.missingPath, { Accept: "*/*" }),
    [
      demand("Content-Type", "any type, if there is a body", ({ reply }) =>
        reply.body.length > 0 && reply.headers["content-type"] === undefined ? "nothing" : undefined,
      ),
    ],
    "RFC 9110 §8.3: otherwise each browser guesses",
  ),
];

function lookAt(one: Sampled): ReturnType<Pack> {
  const { path, question } = one;
  const name = unescapeText(path.replace(/[?#].*$/s, "").replace(/^.*\//s, ""));
  // Declarations of a language share their extension with films.
  const isTold = extensionOf(path) !== "" && !/\.d\.[cm]?ts$/i.test(name);
  const byName = isTold ? decideMediaType(name, NO_TYPES)?.type : undefined;
  const cases = [
    asAdvice(
      makeCase(
        `${path} tells browsers not to guess its type`,
        question,
        checkField("X-Content-Type-Options", "nosniff"),
        "Fetch §3.6: a browser that guesses may run what was meant as text",
      ),
      NOSNIFF,
    ),
  ];
  if (byName !== undefined) {
    cases.push(
      makeCase(
        `${path} has the type of its name`,
        question,
        [
          demand("media type", byName, ({ reply }) => {
            const got = readMediaType(reply.headers);
            return got !== undefined && (isSameType(byName, got) || isSpecial(byName, got))
              ? undefined
              : (got ?? "nothing");
          }),
        ],
        `RFC 9110 §8.3: ${consequence(byName)}`,
      ),
    );
  }
  const content = readContent(one.reply);
  const sniffed = content.ok ? findSignature(content.bytes) : undefined;
  if (sniffed !== undefined) {
    cases.push(
      makeCase(
        `${path} has the type of its content`,
        question,
        [
          demand("media type", `${sniffed}, or another type that begins like it`, ({ reply }) => {
            const got = readMediaType(reply.headers);
            return got !== undefined && fits(got, sniffed) ? undefined : (got ?? "nothing");
          }),
        ],
        "MIME Sniffing §6: a picture with a wrong type may look broken",
      ),
    );
  }
  return [...cases, ...askForCharset(one)];
}

/** RFC 6839 §3: a more special type of the same syntax, such as that of a feed. */
function isSpecial(general: string, got: string): boolean {
  const [, syntax] = /^(?:application|text)\/(xml|json)$/.exec(general) ?? [];
  return syntax !== undefined && got.endsWith(`+${syntax}`);
}

function askForCharset(one: Sampled): ReturnType<Pack> {
  const isText = /^text\/(?:html|css|plain|csv)$/.test(readMediaType(one.reply.headers) ?? "");
  if (!isText || namesOwnCharset(one)) return [];
  const names = demand("charset", "utf-8, or the charset it is in", ({ reply }) =>
    readCharset(reply.headers) === undefined ? "nothing" : undefined,
  );
  const asked = makeCase(
    `${one.path} names its charset`,
    one.question,
    [names],
    "RFC 9110 §8.3.2: letters beyond ASCII look wrong",
  );
  return [asAdvice(asked, CHARSET)];
}

const NOSNIFF = "Send X-Content-Type-Options: nosniff, so that no browser guesses what a file is.";
const CHARSET =
  "Name the charset of texts in Content-Type: if a browser guesses, letters beyond ASCII look wrong.";

// A page, a style sheet or a mark of bytes says it instead of the field (HTML §13.2.3.2).
function namesOwnCharset(one: Sampled): boolean {
  const content = readContent(one.reply);
  if (!content.ok) return false;
  const start = content.bytes.subarray(0, 1024);
  return readOwnCharset(readMediaType(one.reply.headers) ?? "", start) !== undefined;
}

function findSignature(bytes: Uint8Array): string | undefined {
  const type = decideTypeByContent(bytes.subarray(0, HEADER_BYTES));
  return type === "text/plain" || type === "application/octet-stream" ? undefined : type;
}

function consequence(type: string): string {
  if (type === "text/javascript") return "with another type, a module does not run";
  if (type === "text/css") return "with another type, a style sheet is not applied";
  if (type === "application/wasm") return "with another type, it is not compiled while it arrives";
  return "a browser goes by the type, not by the name";
}
