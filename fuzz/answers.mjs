import assert from "node:assert/strict";
import { brotliCompressSync, gzipSync } from "node:zlib";
import fc from "fast-check";
import { compareSites } from "../.cache/build/testing/compare/compare.js";
import { observeSite } from "../.cache/build/testing/draft/from-site.js";
import { writeDraft } from "../.cache/build/testing/draft/write.js";
import { PACK_NAMES } from "../.cache/build/testing/packs/names.js";
import { makePackCases } from "../.cache/build/testing/packs/packs.js";
import { runCases } from "../.cache/build/testing/run.js";

/** What nests, by type: how one level begins and ends. */
const NESTS = {
  "text/html": ["<div>", "</div>"],
  "application/xhtml+xml": ['<a xmlns="http://www.w3.org/1999/xhtml">', "</a>"],
  "image/svg+xml": ['<g xmlns="http://www.w3.org/2000/svg">', "</g>"],
  "application/xml": ["<a>", "</a>"],
  "application/json": ['{"url":[', "]}"],
  "application/manifest+json": ['{"icons":[', "]}"],
  "text/css": ["@media a{", "}"],
  "text/javascript": ["import(", ")"],
  "multipart/byteranges; boundary=a": ["--a\r\nContent-Type: x/y\r\n\r\n", "\r\n--a--"],
  "text/plain": ["(", ")"],
};
const PLACES = ["/", "/a.html", "/style.css", "/app.js", "/app.webmanifest", "/data.json"];
const LINKS = PLACES.map((path) => `<a href="${path}">${path}</a><script src="${path}"></script>`).join("");
/** Names that every object inherits, and fields that mean something. */
const NAMES =
  "constructor,__proto__,toString,valueOf,etag,last-modified,cache-control,vary,location,set-cookie,content-range,content-security-policy,link,digest,repr-digest,accept-ranges,allow,age,expires,x-a".split(
    ",",
  );
const VALUES = [
  "",
  ",",
  ";",
  '"',
  'W/"',
  "a=b",
  "*",
  "0",
  "-1",
  "bytes 0-1/2",
  "/",
  "//",
  "\u0000",
  "é",
  "[",
  "a".repeat(300),
  ";".repeat(3000),
  "a,".repeat(3000),
];
const CODINGS = {
  "": (bytes) => bytes,
  gzip: gzipSync,
  br: brotliCompressSync,
  deflate: (bytes) => bytes,
  none: (bytes) => bytes,
};

const body = fc.record({
  type: fc.constantFrom(...Object.keys(NESTS)),
  depth: fc.oneof(fc.nat(5), fc.constantFrom(300, 20_000)),
  isClosed: fc.boolean(),
  inside: fc.oneof(
    fc.constantFrom(LINKS, "", "\u0000", "\ud800", '"'),
    fc.string({ unit: "binary", maxLength: 30 }),
  ),
  cut: fc.oneof(fc.constant(0), fc.nat(50)),
});

function write({ type, depth, isClosed, inside, cut }) {
  const [begin, end] = NESTS[type];
  const text = begin.repeat(depth) + inside + (isClosed ? end.repeat(depth) : "");
  return Buffer.from(text.slice(0, text.length - cut));
}

const arbitrary = fc.record({
  bodies: fc.array(body, { minLength: 1, maxLength: 4 }),
  status: fc.constantFrom(200, 200, 200, 206, 301, 304, 403, 404, 500, 999),
  coding: fc.constantFrom(...Object.keys(CODINGS)),
  fields: fc.array(fc.tuple(fc.constantFrom(...NAMES), fc.constantFrom(...VALUES)), { maxLength: 4 }),
  packs: fc.subarray(PACK_NAMES, { minLength: 1, maxLength: 4 }),
});

/** Answers every question with one of the bodies, whatever was asked. */
function makeAsker({ bodies, status, coding, fields }) {
  let asked = 0;
  const answers = bodies.map((one) => [one.type, CODINGS[coding](write(one))]);
  return {
    about: "a server of the fuzz",
    address: "http://fuzz.invalid",
    concurrency: 4,
    async ask({ method, path }) {
      assert(++asked < 40_000, "It asks without an end.");
      const at = path.length % answers.length;
      const [type, bytes] = answers[at];
      const headers = Object.create(null);
      for (const [name, value] of [
        ["content-type", type],
        ["content-length", String(bytes.length)],
        ...(coding === "" ? [] : [["content-encoding", coding]]),
        ...fields,
      ])
        headers[name] = value;
      return {
        status,
        headers,
        body: method === "HEAD" ? new Uint8Array(0) : bytes,
        lines: Object.entries(headers),
        inside: undefined,
      };
    },
    async close() {},
  };
}

/** Whatever a server answers, packs, draft and comparison end, each with a result. */
export const answers = {
  name: "answers",
  share: 1,
  // Some thousand questions, as a site with many links needs.
  slowestMs: 30_000,
  async open() {
    return {
      arbitrary,
      async check(input) {
        const asker = makeAsker(input);
        const results = await runCases(await makePackCases(input.packs, { asker, paths: PLACES }), asker, {});
        for (const { outcome } of results) assert(typeof outcome === "string");
        const observed = await observeSite(asker, undefined, PLACES);
        const draft = await writeDraft(observed, {
          about: asker.address,
          against: `${asker.address}/`,
          command: "epistyle check FILE",
        });
        const other = makeAsker({ ...input, bodies: [...input.bodies].reverse() });
        const questions = PLACES.map((path) => ({ method: "GET", path, headers: {} }));
        const compared = await compareSites(questions, asker, other);
        assert(draft.length > 0 && compared.length === PLACES.length);
        assert(!/native code|\[object/.test(draft + JSON.stringify(compared)));
        return results.some(({ outcome }) => outcome === "failed") ? "told of" : "passed";
      },
      async close() {},
    };
  },
};
