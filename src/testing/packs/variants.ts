import { splitMembers } from "../../core/fields/grammar.js";
import type { Reply } from "../ask/ask.js";
import type { Case } from "../case.js";
import { sameBytes } from "../checks/body.js";
import type { Check, Seen } from "../checks/check.js";
import { readMediaType } from "../checks/content.js";
import type { FollowUp } from "../checks/follow-ups.js";
import type { Sampled } from "../discover/sample.js";
import { again, demand, makeCase, type Pack, skipCase, withFollowUps } from "./pack.js";

const AT_MOST = 8;
const NEW_BROWSER = "image/avif,image/webp,image/apng,image/svg+xml,image/*,*/*;q=0.8";
const OLD_BROWSER = "image/png,image/*;q=0.8,*/*;q=0.5";
const BETTER = ["image/avif", "image/webp", "image/jxl"];

/** Pictures in several formats and documents in several languages: everybody gets one that they can use, and caches are told. */
export const variants: Pack = ({ resources }) => {
  const pictures = resources.filter(
    (one) => varies(one.reply, "accept") && readMediaType(one.reply.headers)?.startsWith("image/"),
  );
  const documents = resources.filter(({ reply }) => varies(reply, "accept-language"));
  if (pictures.length + documents.length === 0)
    return [skipCase("variants", "no picture depends on Accept, and no page on Accept-Language")];
  return [
    ...pictures.slice(0, AT_MOST).flatMap(lookAtPicture),
    ...documents.slice(0, AT_MOST).flatMap(lookAtDocument),
  ];
};

function varies({ headers }: Reply, name: string): boolean {
  return splitMembers(headers.vary ?? "", ",").some((one) => one.toLowerCase() === name);
}

function lookAtPicture(one: Sampled): Case[] {
  const ask = (name: string, accept: string, checks: readonly Check[], why: string): Case =>
    withFollowUps(makeCase(`${one.path} ${name}`, again(one, { Accept: accept }), checks, why), [
      itsOwnAddress,
    ]);
  const own = readMediaType(one.reply.headers);
  return [
    ask(
      "for a browser that names new formats",
      NEW_BROWSER,
      [isSent, saysVary("Accept"), ownTag(one)],
      "RFC 9110 §12.5.1, §8.8.3.3",
    ),
    ask(
      "for a browser that names none of them",
      OLD_BROWSER,
      [
        isSent,
        saysVary("Accept"),
        demand("media type", `${own}, or another that old browsers know`, ({ reply }) => {
          const type = readMediaType(reply.headers);
          return type !== undefined && type !== own && BETTER.includes(type) ? type : undefined;
        }),
      ],
      "browsers without new formats also send image/*",
    ),
    ask(
      "for a client that asks for a missing format",
      "image/x-none",
      [isSent],
      "RFC 9110 §12.4.1: a picture is more useful than 406",
    ),
  ];
}

function lookAtDocument(one: Sampled): Case[] {
  const ask = (name: string, language: string, checks: readonly Check[], why: string): Case =>
    withFollowUps(makeCase(`${one.path} ${name}`, again(one, { "Accept-Language": language }), checks, why), [
      itsOwnAddress,
    ]);
  const told = demand("Content-Language", "the language that is sent", ({ reply }) =>
    reply.headers["content-language"] === undefined ? "nothing" : undefined,
  );
  return [
    ask(
      "for a reader of other languages",
      "x-none, zxx;q=0.5",
      [isSent, saysVary("Accept-Language"), told],
      "RFC 9110 §12.5.4, §8.5: a page in another language is more useful than 406",
    ),
    ...["en", "nb", "de", "fr", "es"].map((language) =>
      ask(
        `for a reader of ${language}`,
        `${language}, *;q=0.1`,
        [isSent, saysVary("Accept-Language"), ownTag(one)],
        "RFC 9110 §12.5.4",
      ),
    ),
  ];
}

const isSent = demand("status", "200", ({ reply }) =>
  reply.status === 200 ? undefined : String(reply.status),
);

const saysVary = (name: string): Check =>
  demand("Vary", `${name} in the list`, ({ reply }) =>
    reply.status !== 200 || varies(reply, name.toLowerCase()) ? undefined : (reply.headers.vary ?? "nothing"),
  );

/** Another content under the same tag: caches would give one instead of the other. */
const ownTag = (one: Sampled): Check =>
  demand("ETag", "a different one from the original's", ({ reply }) => {
    const { etag } = reply.headers;
    const isSame = etag !== undefined && etag === one.reply.headers.etag;
    return isSame && !sameBytes(reply.body, one.reply.body) ? `${etag}, for other bytes` : undefined;
  });

// RFC 9110 §8.7.
const itsOwnAddress: FollowUp = {
  name: "its own address",
  plan({ question, reply, address }: Seen) {
    const location = reply.headers["content-location"];
    if (location === undefined || reply.status !== 200) return [];
    if (!URL.canParse(location, address + question.path))
      return { problem: `Content-Location cannot be read: ${location}` };
    const url = new URL(location, address + question.path);
    if (!url.href.startsWith(`${address}/`)) return [];
    const path = url.href.slice(address.length);
    const same = demand("content", `the same bytes as ${question.path}`, (seen) =>
      seen.reply.status === 200 && sameBytes(seen.reply.body, reply.body)
        ? undefined
        : `${seen.reply.status}, with other bytes`,
    );
    return [
      { name: `its own address ${path}`, question: { method: "GET", path, headers: {} }, checks: [same] },
    ];
  },
};
