import { isCompressible } from "../../core/media-types/media-type.js";
import type { Case } from "../case.js";
import type { Check } from "../checks/check.js";
import { listCodings, readMediaType } from "../checks/content.js";
import { checkCoding, checkField, checkStatus } from "../checks/expectation.js";
import { sameContent } from "../checks/follow-ups.js";
import type { Sampled } from "../discover/sample.js";
import { again, demand, makeCase, type Pack, pickByKind, skipCase } from "./pack.js";

/** Below so many bytes compressing saves nothing that counts. */
const WORTH_BYTES = 1024;
const BROWSERS = "gzip, deflate, br, zstd";

/** RFC 9110 §8.4, §12.5.3, §12.5.5: compression, and what is said about it. */
export const codings: Pack = (sample) => {
  const isText = (one: Sampled): boolean => isCompressible(readMediaType(one.reply.headers) ?? "");
  const texts = pickByKind(sample, 5, (one) => isText(one) && one.reply.body.length >= WORTH_BYTES);
  const packed = pickByKind(sample, 4, (one) => !isText(one) && one.kind !== "other" && one.kind !== "sound");
  if (texts.length === 0 && packed.length === 0)
    return [skipCase("content codings", `the site has no text of ${WORTH_BYTES} bytes or more`)];
  return [
    ...texts.flatMap(lookAtText),
    ...packed.map((one) =>
      makeCase(
        `${one.path} is not compressed again`,
        again(one, { "Accept-Encoding": BROWSERS }),
        [checkStatus([200]), checkCoding(["none"])],
        "what is compressed already gets no smaller, and takes time",
      ),
    ),
  ];
};

function lookAtText(one: Sampled): Case[] {
  const put = (what: string, accept: string, checks: readonly Check[], reason: string) =>
    makeCase(`${one.path}, ${what}`, again(one, { "Accept-Encoding": accept }), checks, reason);
  const same = sameContent(one.reply);
  const varies = checkField("Vary", { lists: "Accept-Encoding" });
  const not = (coding: string): Check =>
    demand("coding", `anything but ${coding}`, ({ reply }) =>
      listCodings(reply.headers).includes(coding) ? coding : undefined,
    );
  return [
    put(
      "for a browser, is sent small",
      BROWSERS,
      [checkStatus([200]), checkCoding(["br", "gzip", "zstd", "deflate"]), same],
      "RFC 9110 §8.4: text becomes a quarter of its size",
    ),
    put(
      "for a browser, says what it varies by",
      BROWSERS,
      varies,
      "RFC 9110 §12.5.5: a cache would give one form to everybody",
    ),
    makeCase(
      `${one.path}, uncompressed, says what it varies by`,
      one.question,
      varies,
      "RFC 9110 §12.5.5: both forms have to say it",
    ),
    put(
      "for who takes gzip only",
      "gzip",
      [checkStatus([200]), checkCoding(["gzip"]), same],
      "RFC 9110 §12.5.3",
    ),
    put("for who takes no coding", "identity", [checkCoding(["none"]), same], "RFC 9110 §12.5.3"),
    put(
      "for who refuses gzip",
      "gzip;q=0, br",
      [not("gzip"), same],
      "RFC 9110 §12.4.2: a weight of 0 refuses",
    ),
    put(
      "for who likes gzip better",
      "br;q=0.1, gzip;q=0.9",
      [not("br"), same],
      "RFC 9110 §12.5.3: the higher weight is wanted more",
    ),
    put(
      "for who names a coding that nobody knows",
      "feathers",
      [checkCoding(["none"]), same],
      "RFC 9110 §12.5.3",
    ),
    ...lookAtTag(one),
  ];
}

// A strong tag; a weak one stands for all codings.
function lookAtTag(one: Sampled): Case[] {
  const { etag } = one.reply.headers;
  if (etag === undefined || etag.startsWith("W/")) return [];
  const expected = "another strong tag than without the coding, a weak one, or none";
  return [
    makeCase(
      `${one.path}, each coding has an entity tag of its own`,
      again(one, { "Accept-Encoding": BROWSERS }),
      [
        demand("ETag", expected, ({ reply }) =>
          listCodings(reply.headers).length > 0 && reply.headers.etag === etag
            ? `the same: ${etag}`
            : undefined,
        ),
      ],
      "RFC 9110 §8.8.3.3: a strong tag stands for the same bytes",
    ),
  ];
}
