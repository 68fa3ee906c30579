import { isCompressible } from "../../core/media-types/media-type.js";
import { mergeFields } from "../ask/ask.js";
import type { Case } from "../case.js";
import { sameBytes } from "../checks/body.js";
import type { Check } from "../checks/check.js";
import { listCodings, readContent, readMediaType } from "../checks/content.js";
import { checkCoding, checkStatus } from "../checks/expectation.js";
import { checkField } from "../checks/field.js";
import { type FollowUp, sameContent } from "../checks/follow-ups.js";
import type { Sampled } from "../discover/sample.js";
import { again, asAdvice, demand, makeCase, type Pack, pickByKind, skipCase, withFollowUps } from "./pack.js";

/** Below this many bytes compressing saves nothing that counts. */
const WORTH_BYTES = 1024;
/** Formats that are compressed in themselves; others may get smaller. */
const PACKED =
  /^(?:image\/(?:png|jpeg|gif|webp|avif)|font\/woff2?|audio\/(?:mpeg|ogg|mp4|flac|aac)|video\/(?:mp4|webm|ogg)|application\/(?:zip|gzip))$/;
/** How many more texts are held against their coded forms. */
const OTHERS_AT_MOST = 60;
const BROWSERS = "gzip, deflate, br, zstd";

/** RFC 9110 §8.4, §12.5.3, §12.5.5: compression, and what is said about it. */
export const codings: Pack = (sample) => {
  const isText = (one: Sampled): boolean => isCompressible(readMediaType(one.reply.headers) ?? "");
  const texts = pickByKind(sample, 5, (one) => isText(one) && lengthOf(one) >= WORTH_BYTES);
  const others = sample.resources
    .filter((one) => isText(one) && lengthOf(one) >= WORTH_BYTES && !texts.includes(one))
    .slice(0, OTHERS_AT_MOST);
  const packed = pickByKind(sample, 4, (one) => PACKED.test(readMediaType(one.reply.headers) ?? ""));
  if (texts.length === 0 && packed.length === 0)
    return [skipCase("content codings", `the site has no text of ${WORTH_BYTES} bytes or more`)];
  return [
    ...texts.flatMap(lookAtText),
    ...others.flatMap(lookAtCodings),
    ...packed.map((one) =>
      makeCase(
        `${one.path} is not compressed again`,
        again(one, { "Accept-Encoding": BROWSERS }),
        [checkStatus([200]), checkCoding(["none"])],
        "a compressed file does not get smaller, and compressing takes time",
      ),
    ),
  ];
};

const askWith =
  (one: Sampled) =>
  (what: string, accept: string, checks: readonly Check[], reason: string): Case =>
    makeCase(`${one.path}, ${what}`, again(one, { "Accept-Encoding": accept }), checks, reason);

const not = (coding: string): Check =>
  demand("coding", `anything but ${coding}`, ({ reply }) =>
    listCodings(reply.headers).includes(coding) ? coding : undefined,
  );

const onlyKnown = (...codings: string[]): Check =>
  demand("coding", `none, or one of ${codings.join(", ")}`, ({ reply }) =>
    listCodings(reply.headers).find((coding) => !codings.includes(coding)),
  );

/** Each coding of a file can be one of an older build. */
function lookAtCodings(one: Sampled): Case[] {
  return ["br", "gzip"].map((coding) =>
    askWith(one)(
      `with ${coding}, has the same content`,
      coding,
      [sameContent(one.reply)],
      "RFC 9110 §8.4.1: a coding must give the same content",
    ),
  );
}

function lookAtText(one: Sampled): Case[] {
  const caseOf = askWith(one);
  const same = sameContent(one.reply);
  return [
    asAdvice(
      caseOf(
        "for a browser, is compressed",
        BROWSERS,
        [checkStatus([200]), checkCoding(["br", "gzip", "zstd", "deflate"])],
        "RFC 9110 §8.4: text becomes a quarter of its size",
      ),
      "Compress texts: they become a quarter of their size.",
    ),
    caseOf(
      "for a browser, has the same content",
      BROWSERS,
      [checkStatus([200]), onlyKnown("br", "gzip", "zstd", "deflate"), same, ...sameFields(one)],
      "RFC 9110 §8.4.1: a coding must give the same content, and be named",
    ),
    withFollowUps(
      caseOf(
        "for a browser, names in Vary what it depends on",
        BROWSERS,
        [variesIfCoded],
        "RFC 9110 §12.5.5: a cache would send one form to everybody",
      ),
      [askPlain],
    ),
    withFollowUps(
      caseOf(
        "for a client that accepts only gzip",
        "gzip",
        [checkStatus([200]), onlyKnown("gzip"), same],
        "RFC 9110 §12.5.3",
      ),
      [askForPart],
    ),
    caseOf(
      "for a client that accepts no coding",
      "identity",
      [checkCoding(["none"]), same],
      "RFC 9110 §12.5.3",
    ),
    ...askByWeight(one),
    ...lookAtTag(one),
  ];
}

/** RFC 9110 §12.4.2, §12.5.3: weights, and codings that nobody knows. */
function askByWeight(one: Sampled): Case[] {
  const caseOf = askWith(one);
  const same = sameContent(one.reply);
  return [
    caseOf(
      "for a client that refuses gzip",
      "gzip;q=0, br",
      [not("gzip"), same],
      "RFC 9110 §12.4.2: a weight of 0 refuses",
    ),
    caseOf(
      "for a client that prefers gzip",
      "br;q=0.1, gzip;q=0.9",
      [onlyKnown("gzip", "br"), same],
      "RFC 9110 §12.5.3: the higher weight is preferred, and any available coding may be sent",
    ),
    caseOf(
      "for a client that names an unknown coding",
      "feathers",
      [checkCoding(["none"]), same],
      "RFC 9110 §12.5.3",
    ),
  ];
}

function lengthOf({ reply }: Sampled): number {
  const content = readContent(reply);
  return content.ok ? content.bytes.length : reply.body.length;
}

/** Fields that are about the content, whatever form it comes in. */
function sameFields({ reply }: Sampled): Check[] {
  return ["Content-Type", "Cache-Control"].flatMap((name) => {
    const value = reply.headers[name.toLowerCase()];
    return value === undefined ? [] : checkField(name, value);
  });
}

/** RFC 9110 §14.1.2, §8.4: a part is one of the form that is sent, and not of the plain one. */
const askForPart: FollowUp = {
  name: "part",
  plan({ question, reply }) {
    if (listCodings(reply.headers).length === 0 || reply.body.length < 20) return [];
    const plain = readContent(reply);
    const check = demand(
      "part",
      `none, or bytes 0-9 of the ${reply.body.length} bytes of the coded form`,
      (seen) => {
        const { status, headers, body } = seen.reply;
        // RFC 9110 §14.2: without a coding, it has to be a part of the plain form.
        if (status === 206 && headers["content-encoding"] === undefined && plain.ok) {
          const isPlain = sameBytes(body, plain.bytes.subarray(0, 10));
          return isPlain ? undefined : "bytes of the coded form, without Content-Encoding";
        }
        const isSame =
          headers["content-encoding"] === reply.headers["content-encoding"] &&
          headers.etag === reply.headers.etag;
        if (status !== 206 || !isSame) return undefined;
        const place = headers["content-range"];
        return place === `bytes 0-9/${reply.body.length}` && sameBytes(body, reply.body.subarray(0, 10))
          ? undefined
          : `${place ?? "nothing"} beside Content-Encoding: ${headers["content-encoding"]}: a range of another form`;
      },
    );
    const headers = mergeFields<string | readonly string[]>(question.headers, { Range: "bytes=0-9" });
    return [{ name: "a part of it", question: { ...question, headers }, checks: [check] }];
  },
};

const VARIES = checkField("Vary", { lists: "Accept-Encoding" });

// Where there is one form alone, nothing varies.
const variesIfCoded: Check = {
  about: "Vary",
  expected: "a list with Accept-Encoding, if a coding is used",
  look: (seen) =>
    listCodings(seen.reply.headers).length === 0
      ? undefined
      : VARIES.map((check) => check.look(seen)).find((got) => got !== undefined),
};

/** RFC 9110 §12.5.5: where a coding was sent, the plain form has to say so, too. */
const askPlain: FollowUp = {
  name: "plain",
  plan: ({ question, reply }) =>
    listCodings(reply.headers).length === 0
      ? []
      : [
          {
            name: "asked without a coding",
            question: {
              ...question,
              headers: mergeFields(question.headers, { "Accept-Encoding": "identity" }),
            },
            checks: VARIES,
          },
        ],
};

// A strong tag; a weak one means all codings.
function lookAtTag(one: Sampled): Case[] {
  const { etag } = one.reply.headers;
  if (etag === undefined || etag.startsWith("W/")) return [];
  const expected = "another strong tag than without the coding, a weak one, or none";
  return [
    makeCase(
      `${one.path}, each coding has its own entity tag`,
      again(one, { "Accept-Encoding": BROWSERS }),
      [
        demand("ETag", expected, ({ reply }) =>
          listCodings(reply.headers).length > 0 && reply.headers.etag === etag
            ? `the same: ${etag}`
            : undefined,
        ),
      ],
      "RFC 9110 §8.8.3.3: a strong tag means the same bytes",
    ),
  ];
}
