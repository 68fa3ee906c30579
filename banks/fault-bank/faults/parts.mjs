import { brotliCompressSync, gzipSync } from "node:zlib";
import { SITE } from "../site.mjs";
import { asked, field, on, withStatus } from "./plant.mjs";

const part = (change) => withStatus(206, change);
const several = (change) => ({
  style: { multipart: true },
  ...part((one) => (/multipart/.test(one.fields["Content-Type"]) ? change(one) : undefined)),
});
const pathOf = (target) => target.split("?")[0];
const coded = (change, name) =>
  on(/./, (one, request) =>
    one.fields["Content-Encoding"] !== undefined &&
    (name === undefined || one.fields["Content-Encoding"] === name) &&
    one.status === 200
      ? change(one, request)
      : undefined,
  );
const plainOf = (target) => SITE.get(pathOf(target).replace(/\/$/, "/index.html"))?.bytes ?? Buffer.alloc(0);

export const RANGES = [
  ["a part without saying which", /Content-Range/, part((one) => (one.fields["Content-Range"] = undefined))],
  [
    "a part of another whole",
    /Content-Range/,
    part((one) => (one.fields["Content-Range"] = one.fields["Content-Range"].replace(/\d+$/, "99999"))),
  ],
  [
    "a part of an unknown whole",
    /Content-Range/,
    part((one) => (one.fields["Content-Range"] = one.fields["Content-Range"].replace(/\d+$/, "*"))),
  ],
  [
    "a part that is shifted",
    /bytes|body/,
    part((one) => (one.body = Buffer.concat([one.body.subarray(1), Buffer.from("x")]))),
  ],
  ["a part that is one byte short", /bytes|body/, part((one) => (one.body = one.body.subarray(0, -1)))],
  [
    "the whole as a part",
    /bytes|body/,
    on(/./, (one, { target }) => (one.status === 206 ? (one.body = plainOf(target)) : undefined)),
  ],
  ["parts are offered and not given", /206|part/, asked(({ headers }) => delete headers.range)],
  [
    "a part past the end is refused",
    /416|past/,
    asked(
      ({ headers }) => headers.range?.match(/-(\d{4,})$/)?.[1] > 9000 && (headers.range = "bytes=9999999-"),
    ),
  ],
  ["a range after the end is the whole", /416|behind/, withStatus(416, (one) => (one.status = 200))],
  [
    "416 without the length",
    /Content-Range/,
    withStatus(416, (one) => (one.fields["Content-Range"] = undefined)),
  ],
  [
    "the end is the beginning",
    /end|bytes|Content-Range/,
    asked(
      ({ headers }) =>
        headers.range !== undefined &&
        (headers.range = headers.range.replace(/^bytes=-(\d+)$/, (_, n) => `bytes=0-${n - 1}`)),
    ),
  ],
  [
    "an unknown unit is refused",
    /unit|416/,
    on(/./, (one, { headers }) => (/^feathers/.test(headers.range ?? "") ? (one.status = 416) : undefined)),
  ],
  [
    "an unreadable range makes it fail",
    /500|read/,
    on(/./, (one, { headers }) =>
      headers.range !== undefined &&
      !/^bytes=\d*-\d*(?:, ?\d*-\d*)*$/.test(headers.range) &&
      !/^feathers/.test(headers.range)
        ? (one.status = 500)
        : undefined,
    ),
  ],
  [
    "a part of another file goes on",
    /unchanged|another|If-Range|200/,
    asked(({ headers }) => delete headers["if-range"]),
  ],
  [
    "a part if it is the same by date never comes",
    /date|If-Range|206/,
    {
      style: { tags: "none" },
      ...asked(({ headers }) => headers["if-range"] !== undefined && delete headers.range),
    },
  ],
  [
    "a part if it is the same never comes",
    /unchanged|If-Range|206/,
    asked(({ headers }) => headers["if-range"] !== undefined && delete headers.range),
  ],
  [
    "a part if it is weakly the same",
    /weak|If-Range/,
    {
      style: { tags: "weak" },
      ...asked(({ headers }) => headers["if-range"]?.startsWith("W/") && delete headers["if-range"]),
    },
  ],
  [
    "a part for HEAD",
    /HEAD/,
    on(/./, (one, { method, headers }) =>
      method === "HEAD" && headers.range !== undefined && one.status === 200
        ? Object.assign(one, {
            status: 206,
            fields: { ...one.fields, "Content-Range": `bytes 0-99/${one.body.length}` },
          })
        : undefined,
    ),
  ],
  ["a part has another tag", /ETag|tag/, part((one) => (one.fields.ETag = '"part"'))],
  [
    "a part has another type",
    /type/i,
    part((one) => (one.fields["Content-Type"] = "application/octet-stream")),
  ],
  [
    "several parts without an end",
    /end|several/,
    several((one) => (one.body = one.body.subarray(0, one.body.lastIndexOf("\r\n--")))),
  ],
  [
    "several parts that are shifted",
    /part|several|bytes/,
    several((one) => {
      const at = one.body.indexOf("\r\n\r\n") + 4;
      one.body = Buffer.concat([
        one.body.subarray(0, at),
        one.body.subarray(at + 1, at + 10),
        Buffer.from("x"),
        one.body.subarray(at + 10),
      ]);
    }),
  ],
  [
    "several parts without their places",
    /Content-Range|several/,
    several(
      (one) =>
        (one.body = Buffer.from(one.body.toString("latin1").replace(/Content-Range: .*\r\n/g, ""), "latin1")),
    ),
  ],
  [
    "several parts with another boundary",
    /boundary|several/,
    several((one) => (one.fields["Content-Type"] = "multipart/byteranges; boundary=other")),
  ],
  [
    "several parts with one place for all",
    /Content-Range/,
    several((one) => (one.fields["Content-Range"] = "bytes 0-9/8044")),
  ],
];

export const CODINGS = [
  [
    "gzip for who takes none",
    /none|no coding|identity/,
    asked((request) => (request.headers["accept-encoding"] = "gzip")),
  ],
  [
    "br for who takes gzip",
    /gzip/,
    asked(({ headers }) => headers["accept-encoding"] === "gzip" && (headers["accept-encoding"] = "br")),
  ],
  [
    "gzip for who refuses it",
    /refuse|gzip/,
    asked(
      ({ headers }) =>
        /gzip;q=0(?:,|$)/.test(headers["accept-encoding"] ?? "") && (headers["accept-encoding"] = "gzip"),
    ),
  ],
  [
    "a coding that is not named",
    /coding|content|named/,
    coded((one) => (one.fields["Content-Encoding"] = undefined)),
  ],
  ["a coding that it is not in", /coding|gzip|br/, coded((one, { target }) => (one.body = plainOf(target)))],
  ["a coding that has no such name", /coding/, coded((one) => (one.fields["Content-Encoding"] = "utf-8"))],
  ["nothing says that it varies", /Vary/, field(/./, "Vary", undefined)],
  [
    "the plain form does not say that it varies",
    /Vary/,
    on(/./, (one) =>
      one.fields["Content-Encoding"] === undefined ? (one.fields.Vary = undefined) : undefined,
    ),
  ],
  ["all forms have one strong tag", /tag/i, field(/./, "ETag", (tag) => tag?.replace(/-(?:br|gzip)"$/, '"'))],
  ["coded twice", /twice|coding|gzip/, coded((one) => (one.body = gzipSync(one.body)), "gzip")],
  [
    "coded twice, and named once",
    /twice|content|other|coding/,
    coded((one) => (one.body = brotliCompressSync(one.body)), "br"),
  ],
  [
    "a prebuilt form that is stale",
    /content|other|stale/,
    coded(
      (one, { target }) =>
        (one.body = brotliCompressSync(Buffer.from(plainOf(target).toString().replace("heron", "egret")))),
      "br",
    ),
  ],
  [
    "a coded form that is cut",
    /coding|cut|whole|broke/,
    coded((one) => (one.body = one.body.subarray(0, -20))),
  ],
  [
    "a picture is coded once more",
    /compressed again|again|coding/,
    on(/heron\.png$/, (one, { headers }) =>
      one.status === 200 && /gzip/.test(headers["accept-encoding"] ?? "")
        ? Object.assign(one, {
            body: gzipSync(one.body),
            fields: { ...one.fields, "Content-Encoding": "gzip", Vary: "Accept-Encoding" },
          })
        : undefined,
    ),
  ],
  [
    "the coded form has another type",
    /type/i,
    coded((one) => (one.fields["Content-Type"] = "application/gzip")),
  ],
  [
    "the coded form has another lifetime",
    /Cache-Control|caching/,
    coded((one) => (one.fields["Cache-Control"] = "max-age=77")),
  ],
  [
    "the length of the plain form",
    /length|ended|connection/i,
    coded((one, { target }) => (one.fields["Content-Length"] = String(plainOf(target).length))),
  ],
  [
    "a part of the coded form is one of the plain",
    /coded|coding|part/,
    on(/./, (one, { target, headers }) => {
      const [, from, to] = /^bytes=(\d+)-(\d+)$/.exec(headers.range ?? "") ?? [];
      if (one.status === 206 && one.fields["Content-Encoding"] !== undefined && from !== undefined) {
        const plain = plainOf(target);
        one.body = plain.subarray(Number(from), Number(to) + 1);
        one.fields["Content-Range"] = `bytes ${from}-${to}/${plain.length}`;
      }
    }),
  ],
  [
    "a part of the coded form is called one of the plain",
    /coded|coding|part/,
    on(/./, (one, { target }) => {
      if (one.status !== 206 || one.fields["Content-Encoding"] === undefined) return;
      delete one.fields["Content-Encoding"];
      one.fields["Content-Range"] = one.fields["Content-Range"].replace(/\d+$/, plainOf(target).length);
    }),
  ],
  [
    "an archive is sent as coded",
    /archive|gzip|zip|coding/,
    {
      changes: { "/records/archive.zip": (bytes) => gzipSync(bytes) },
      ...on(/archive\.zip$/, (one) => (one.fields["Content-Encoding"] = "gzip")),
    },
  ],
];
