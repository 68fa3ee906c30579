import type { Case } from "../case.js";
import { sameBytes } from "../checks/body.js";
import type { Check } from "../checks/check.js";
import { checkStatus } from "../checks/expectation.js";
import { checkField } from "../checks/field.js";
import { checkBytes, resolveRange } from "../checks/follow-ups.js";
import { readBoundary, readParts } from "../checks/parts.js";
import type { Large, Sampled } from "../discover/sample.js";
import { again, asAdvice, demand, get, makeCase, type Pack, skipCase } from "./pack.js";

/** RFC 9110 §14: parts of a file, for players that seek and downloads that go on. */
export const ranges: Pack = (sample, paths) => {
  const fits = (one: Sampled): boolean => one.reply.body.length >= 200;
  // Sound and film need it most; then whatever a download may break off in.
  const order = ["sound", "film", "other", "picture", "data", "font", "script", "style", "text", "document"];
  const named = sample.resources.filter((one) => paths.includes(one.path) && fits(one));
  const picked = [...sample.resources]
    .filter(fits)
    .sort((a, b) => order.indexOf(a.kind) - order.indexOf(b.kind));
  const chosen = new Set([...named, ...picked.slice(0, 2)]);
  if (chosen.size === 0 && sample.large.length === 0)
    return [skipCase("parts of a file", "the site has no file of 200 bytes or more")];
  return [...[...chosen].flatMap(lookAt), ...sample.large.flatMap(lookAtLarge)];
};

// Of a file that is not read whole, parts are compared with what they say of themselves.
function lookAtLarge({ path, sizeBytes }: Large): ReturnType<Pack> {
  const part = (what: string, field: string): ReturnType<Pack>[number] => {
    const { from, to } = resolveRange(field, sizeBytes)!;
    return makeCase(
      `${path}, ${what}`,
      get(path, { Range: field }),
      [
        checkStatus([206]),
        ...checkField("Content-Range", `bytes ${from}-${to}/${sizeBytes}`),
        demand("body", `${to - from + 1} bytes`, ({ reply }) =>
          reply.body.length === to - from + 1 ? undefined : `${reply.body.length} bytes`,
        ),
      ],
      "RFC 9110 §14.2: players seek in large files",
    );
  };
  const middle = Math.floor(sizeBytes / 2);
  return [
    part("its beginning", "bytes=0-99"),
    part("from its middle", `bytes=${middle}-${middle + 999}`),
    part("its end", "bytes=-100"),
  ];
}

function lookAt(one: Sampled): Case[] {
  const offer = asAdvice(
    makeCase(
      `${one.path}, says that ranges are supported`,
      one.question,
      checkField("Accept-Ranges", "bytes"),
      "RFC 9110 §14.3: players look for it before they seek",
    ),
    "Support ranges (Accept-Ranges: bytes): players seek with them, and interrupted downloads continue.",
  );
  // RFC 9110 §14.2: a server may ignore Range. Then it sends the whole each time.
  if (!/\bbytes\b/i.test(one.reply.headers["accept-ranges"] ?? ""))
    return [
      offer,
      makeCase(
        `${one.path}, a range although none are offered`,
        again(one, { Range: "bytes=0-99" }),
        [partOrWhole(one)],
        "RFC 9110 §14.2, §15.3.7",
      ),
    ];
  return [
    offer,
    ...askForParts(one),
    ...askForOthers(one),
    ...askForPartsIfSame(one),
    makeCase(
      `${one.path}, a range with HEAD`,
      { ...again(one, { Range: "bytes=0-99" }), method: "HEAD" },
      [checkStatus([200])],
      "RFC 9110 §14.2: Range is for GET",
    ),
  ];
}

function askForParts(one: Sampled): Case[] {
  const { length } = one.reply.body;
  const rows: readonly [what: string, field: string, reason: string][] = [
    ["its beginning", "bytes=0-99", "RFC 9110 §14.2, §15.3.7"],
    ["a part inside", "bytes=100-149", "RFC 9110 §14.2"],
    ["its end", "bytes=-50", "RFC 9110 §14.1.2: a suffix"],
    ["from a byte on", `bytes=${length - 30}-`, "RFC 9110 §14.1.2"],
    [
      "a range that goes past the end",
      `bytes=${length - 10}-${length + 5000}`,
      "RFC 9110 §14.1.2: it is cut at the end",
    ],
  ];
  return rows.map(([what, field, reason]) =>
    makeCase(`${one.path}, ${what}`, again(one, { Range: field }), checkPart(one, field), reason),
  );
}

function askForOthers(one: Sampled): Case[] {
  const { length } = one.reply.body;
  const ask = (what: string, field: string, checks: readonly Check[], reason: string) =>
    makeCase(`${one.path}, ${what}`, again(one, { Range: field }), checks, reason);
  return [
    ask(
      "a range after the end",
      `bytes=${length + 10}-`,
      [checkStatus([416]), ...checkField("Content-Range", `bytes */${length}`)],
      "RFC 9110 §15.5.17",
    ),
    ask(
      "in an unknown unit",
      "feathers=0-9",
      checkWhole(one),
      "RFC 9110 §14.2: an unknown range unit is ignored",
    ),
    ask(
      "an invalid range",
      "bytes=feather-",
      [
        demand("status", "200 with the whole, or 416", ({ reply: { status } }) =>
          status === 200 || (status >= 400 && status < 500) ? undefined : `${status}, for an invalid range`,
        ),
      ],
      "RFC 9110 §14.2: an invalid range is ignored",
    ),
    ask(
      "several ranges at a time",
      "bytes=0-9,50-59",
      [severalParts(one)],
      "RFC 9110 §15.3.7.2: several parts, or the whole",
    ),
  ];
}

function askForPartsIfSame(one: Sampled): Case[] {
  const { etag, "last-modified": date } = one.reply.headers;
  const validator = etag?.startsWith('"') ? etag : date;
  const ask = (what: string, ifRange: string, checks: readonly Check[], reason: string) =>
    makeCase(
      `${one.path}, ${what}`,
      again(one, { Range: "bytes=0-99", "If-Range": ifRange }),
      checks,
      reason,
    );
  return [
    ...(validator === undefined
      ? []
      : [
          ask(
            "a range, if the file is unchanged",
            validator,
            checkPart(one, "bytes=0-99"),
            "RFC 9110 §13.1.5",
          ),
        ]),
    ...(etag?.startsWith("W/")
      ? [
          ask(
            "a range, if the file is weakly the same",
            etag,
            checkWhole(one),
            "RFC 9110 §13.1.5: a weak tag does not mean the same bytes",
          ),
        ]
      : []),
    ask(
      "a range, if the file were another",
      '"no-such-tag"',
      checkWhole(one),
      "RFC 9110 §13.1.5: a download continues only in the same file",
    ),
  ];
}

function checkPart({ reply: { body, headers } }: Sampled, field: string): Check[] {
  const { from, to } = resolveRange(field, body.length)!;
  // RFC 9110 §15.3.7: what a 200 would have, so that parts can be assembled.
  const same = headers.etag === undefined ? [] : checkField("ETag", headers.etag);
  const type = headers["content-type"];
  // With If-Range it may be left out.
  const sameType = demand("Content-Type", type ?? "nothing", ({ reply }) => {
    const got = reply.headers["content-type"];
    return got === type || got === undefined ? undefined : got;
  });
  return [
    checkStatus([206]),
    ...checkField("Content-Range", `bytes ${from}-${to}/${body.length}`),
    checkBytes(`bytes ${from} to ${to} of the whole`, body.subarray(from, to + 1)),
    ...same,
    sameType,
  ];
}

function checkWhole({ reply: { body } }: Sampled): Check[] {
  return [checkStatus([200]), checkBytes("the whole", body)];
}

function partOrWhole({ reply: { body } }: Sampled): Check {
  return demand("answer", "the whole with 200, or bytes 0-99 with 206 and Content-Range", ({ reply }) => {
    const { status, headers } = reply;
    if (status === 200 && sameBytes(reply.body, body)) return undefined;
    const isPart = status === 206 && headers["content-range"] === `bytes 0-99/${body.length}`;
    if (isPart && sameBytes(reply.body, body.subarray(0, 100))) return undefined;
    return `${status} with ${reply.body.length} bytes`;
  });
}

// RFC 9110 §15.3.7.2: each part says which bytes it is; the head says it for none.
function severalParts({ reply: { body: whole } }: Sampled): Check {
  return demand("answer", "206 with each part and its place, or 200 with the whole", ({ reply }) => {
    const { status, headers, body } = reply;
    const type = headers["content-type"] ?? "no type";
    if (status === 200) return undefined;
    const boundary = readBoundary(type);
    if (status !== 206 || boundary === undefined) {
      const isOne = status === 206 && headers["content-range"] !== undefined;
      return isOne && isPartOf(whole, headers["content-range"]!, body) ? undefined : `${status} with ${type}`;
    }
    if (headers["content-range"] !== undefined)
      return `several parts, and one Content-Range for all: ${headers["content-range"]}`;
    const read = readParts(body, boundary);
    if ("problem" in read) return `several parts that cannot be read: ${read.problem}`;
    const bad = read.parts.find((part) => !isPartOf(whole, part.headers["content-range"] ?? "", part.bytes));
    if (bad === undefined) return read.parts.length > 0 ? undefined : "several parts, but the body has none";
    const place = bad.headers["content-range"];
    return place === undefined
      ? "several parts, one of them without Content-Range"
      : `several parts, one of which is not ${place}`;
  });
}

function isPartOf(whole: Uint8Array, place: string, bytes: Uint8Array): boolean {
  const [, from, to, length] = /^bytes (\d+)-(\d+)\/(\d+)$/.exec(place) ?? [];
  return Number(length) === whole.length && sameBytes(bytes, whole.subarray(Number(from), Number(to) + 1));
}
