import { createHash } from "node:crypto";
import { mkdirSync, renameSync, utimesSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import zlib, { brotliCompressSync, brotliDecompressSync, gunzipSync, gzipSync } from "node:zlib";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { readPlan } from "../src/adapters/in-process.js";
import { Memory } from "../src/core/memory/memory.js";
import {
  type AreaConfig,
  type FileSource,
  type MountConfig,
  memorySource,
  type Site,
  type SiteConfig,
} from "../src/index.js";
import { MADE_CODINGS, makeCompressor } from "../src/sources/compressor.js";
import { openSite } from "./counting-source.js";
import { ask, fieldsOf, makeTree } from "./helpers.js";

const LONG = "a line of text that compresses well\n".repeat(200);
const DRAWING = `<svg xmlns="http://www.w3.org/2000/svg"><title>${LONG}</title></svg>`;
const AT = new Date(Date.UTC(2026, 8, 1, 12));
const LATER = "Wed, 02 Sep 2026 12:00:00 GMT";

async function get(site: Site, request: string, headers: Record<string, string> = {}) {
  const [method = "GET", target = "/"] = request.split(/ (.*)/s);
  const answer = await site.respond({ method, target, headers });
  if (answer.kind === "pass") throw new Error("passed on");
  return { status: answer.status, fields: fieldsOf(answer), bytes: Buffer.from(await readPlan(answer)) };
}

const openWith = (tree: Record<string, string | Uint8Array>, rules: AreaConfig): Promise<Site> =>
  openSite({ mounts: [{ source: memorySource(tree, { modified: AT }), ...rules }] });

describe("RFC 9110 §14, through a site", () => {
  let site: Site;
  let tag: string;
  beforeAll(async () => {
    site = await openWith({ "a.bin": "0123456789", "empty.bin": "" }, {});
    tag = (await get(site, "GET /a.bin")).fields.etag!;
  });

  test.each<[string, string, Record<string, string>, number, string, string | undefined]>([
    ["§14.3 says that ranges are understood", "GET /a.bin", {}, 200, "0123456789", undefined],
    ["§15.3.7.1 one part", "GET /a.bin", { range: "bytes=2-4" }, 206, "234", "bytes 2-4/10"],
    ["§14.1.2 a suffix", "GET /a.bin", { range: "bytes=-3" }, 206, "789", "bytes 7-9/10"],
    ["§14.2 HEAD has no ranges", "HEAD /a.bin", { range: "bytes=2-4" }, 200, "", undefined],
    [
      "§15.5.17 none of it",
      "GET /a.bin",
      { range: "bytes=50-" },
      416,
      "416 Range Not Satisfiable\nThe file ends before the range you asked for.\n",
      "bytes */10",
    ],
    ["§14.2 overlapping: the whole", "GET /a.bin", { range: "bytes=0-5,3-6" }, 200, "0123456789", undefined],
    [
      "an empty file, from its first byte",
      "GET /empty.bin",
      { range: "bytes=0-" },
      416,
      "416 Range Not Satisfiable\nThe file ends before the range you asked for.\n",
      "bytes */0",
    ],
    ["an empty file, its end", "GET /empty.bin", { range: "bytes=-1" }, 200, "", undefined],
    [
      "§13.1.5 If-Range with the tag",
      "GET /a.bin",
      { range: "bytes=0-1", "if-range": "TAG" },
      206,
      "01",
      "bytes 0-1/10",
    ],
    [
      "§13.1.5 If-Range with another tag: the whole",
      "GET /a.bin",
      { range: "bytes=0-1", "if-range": '"x"' },
      200,
      "0123456789",
      undefined,
    ],
    [
      "§13.1.5 If-Range compares strongly",
      "GET /a.bin",
      { range: "bytes=0-1", "if-range": "W/TAG" },
      200,
      "0123456789",
      undefined,
    ],
    [
      "§13.1.5 If-Range is one tag, no list",
      "GET /a.bin",
      { range: "bytes=0-1", "if-range": "TAG, TAG" },
      200,
      "0123456789",
      undefined,
    ],
    [
      "§13.1.5 If-Range with the date",
      "GET /a.bin",
      { range: "bytes=0-1", "if-range": AT.toUTCString() },
      206,
      "01",
      "bytes 0-1/10",
    ],
    [
      "§13.1.5 a later date is another date",
      "GET /a.bin",
      { range: "bytes=0-1", "if-range": LATER },
      200,
      "0123456789",
      undefined,
    ],
    [
      "§13.1.5 a date that cannot be read",
      "GET /a.bin",
      { range: "bytes=0-1", "if-range": "soon" },
      200,
      "0123456789",
      undefined,
    ],
    [
      "§13.1.5 satisfiable only with the tag: no 416 else",
      "GET /a.bin",
      { range: "bytes=50-", "if-range": '"x"' },
      200,
      "0123456789",
      undefined,
    ],
    [
      "§13.2.2 a current copy goes before a range",
      "GET /a.bin",
      { range: "bytes=0-1", "if-none-match": "TAG" },
      304,
      "",
      undefined,
    ],
    [
      "§13.2.2 a failed precondition goes before a range",
      "GET /a.bin",
      { range: "bytes=0-1", "if-match": '"x"' },
      412,
      "412 Precondition Failed\nThe page has changed in the meantime.\n",
      undefined,
    ],
    [
      "§13.2.2 a condition that holds, then the range",
      "GET /a.bin",
      { range: "bytes=0-1", "if-match": "TAG" },
      206,
      "01",
      "bytes 0-1/10",
    ],
  ])("%s", async (_sentence, request, headers, status, body, contentRange) => {
    const filled = Object.fromEntries(Object.entries(headers).map(([k, v]) => [k, v.replaceAll("TAG", tag)]));
    const answer = await get(site, request, filled);
    expect([answer.status, answer.bytes.toString(), answer.fields["content-range"]]).toEqual([
      status,
      body,
      contentRange,
    ]);
    if (status === 206 || (status === 200 && request.startsWith("GET"))) {
      expect(answer.fields).toMatchObject({
        "accept-ranges": "bytes",
        "content-length": String(answer.bytes.length),
      });
    }
    if (status === 206) expect(answer.fields).toMatchObject({ etag: tag, "last-modified": AT.toUTCString() });
  });

  test("§14.6 several parts, each with its type and place, and a length that is right", async () => {
    const { status, fields, bytes } = await get(site, "GET /a.bin", { range: "bytes=8-9,0-1" });
    const boundary = /^multipart\/byteranges; boundary=(epistyle-part-\w+-end)$/.exec(
      fields["content-type"]!,
    )![1];
    expect([status, fields["content-length"], fields["content-range"]]).toEqual([
      206,
      String(bytes.length),
      undefined,
    ]);
    expect(bytes.toString().split(`--${boundary}`)).toEqual(
      [
        "\r\n",
        "\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Range: bytes 8-9/10\r\n\r\n89\r\n",
        "\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Range: bytes 0-1/10\r\n\r\n01\r\n",
        "--\r\n",
      ].map((part) => part.replaceAll("text/plain; charset=utf-8", "application/octet-stream")),
    );
  });
});

const zstdDecompress = (zlib as { zstdDecompressSync?: (bytes: Uint8Array) => Buffer }).zstdDecompressSync;
/** A zstd frame of one raw block (RFC 8878 §3.1.1): the bytes as they are, behind 9 bytes of header and 3 of the block's. */
function storeZstd(text: string): Buffer {
  const bytes = Buffer.from(text);
  const header = Buffer.from([0x28, 0xb5, 0x2f, 0xfd, 0xa0, 0, 0, 0, 0]);
  header.writeUInt32LE(bytes.length, 5);
  const block = Buffer.alloc(3);
  block.writeUIntLE((bytes.length << 3) | 1, 0, 3);
  return Buffer.concat([header, block, bytes]);
}
const readStored = (bytes: Uint8Array): Buffer => Buffer.from(bytes.subarray(12));

describe("content codings", () => {
  let tree: Awaited<ReturnType<typeof makeTree>>;
  let site: Site;
  beforeAll(async () => {
    tree = await makeTree({
      "page.html": LONG,
      "small.html": "short",
      "photo.png": LONG,
      "app.js": LONG,
      "app.js.br": brotliCompressSync(`${LONG}prebuilt`),
      "app.js.gz": gzipSync(`${LONG}prebuilt`),
      "app.js.zst": storeZstd(`${LONG}prebuilt`),
      "stale.js": LONG,
      "stale.js.br": brotliCompressSync("stale"),
      "fixed.html": LONG,
      "bird.svgz": gzipSync(DRAWING),
      "plain.svgz": DRAWING,
      "none.svgz": "",
      "noise.txt": Buffer.from(
        Array.from({ length: 3000 }, (_, i) => createHash("sha1").update(String(i)).digest()[0]!),
      ),
    });
    utimesSync(join(tree.root, "stale.js.br"), 1_000_000_000, 1_000_000_000);
    site = await openSite({
      mounts: [
        {
          folder: tree.root,
          codings: { prebuilt: ["br", "zstd", "gzip"] },
          caching: [{ files: "fixed.html", policy: { maxAge: "1m", noTransform: true } }],
        },
      ],
    });
  });
  afterAll(() => tree.remove());

  const BROWSER = "gzip, deflate, br, zstd";
  test.each<[string, string, string | undefined, string | undefined, boolean]>([
    ["made on the fly", "/page.html", BROWSER, "br", true],
    ["gzip alone", "/page.html", "gzip", "gzip", true],
    ["nothing asked for", "/page.html", undefined, undefined, true],
    ["refused", "/page.html", "br;q=0, gzip;q=0", undefined, true],
    ["too small to be worth it", "/small.html", BROWSER, undefined, true],
    ["a type that does not compress", "/photo.png", BROWSER, undefined, false],
    ["prebuilt", "/app.js", BROWSER, "br", true],
    ["prebuilt, gzip", "/app.js", "gzip", "gzip", true],
    ["prebuilt, zstd", "/app.js", "zstd, gzip;q=0.5", "zstd", true],
    [
      "zstd where the platform makes it",
      "/page.html",
      "zstd",
      zstdDecompress === undefined ? undefined : "zstd",
      true,
    ],
    ["a prebuilt file that is out of date is not sent", "/stale.js", BROWSER, "br", true],
    ["what does not become smaller is sent as it is", "/noise.txt", BROWSER, undefined, true],
    ["no-transform keeps the bytes", "/fixed.html", BROWSER, undefined, true],
  ])("%s", async (_sentence, path, accept, coding, varies) => {
    const headers: Record<string, string> = accept === undefined ? {} : { "accept-encoding": accept };
    const { status, fields, bytes } = await get(site, `GET ${path}`, headers);
    expect([status, fields["content-encoding"], fields.vary]).toEqual([
      200,
      coding,
      varies ? "Accept-Encoding" : undefined,
    ]);
    expect(fields["content-length"]).toBe(String(bytes.length));
    const decoded =
      coding === "br"
        ? brotliDecompressSync(bytes)
        : coding === "gzip"
          ? gunzipSync(bytes)
          : coding === "zstd"
            ? (zstdDecompress ?? readStored)(bytes)
            : bytes;
    const plain = await get(site, `GET ${path}`);
    if (path === "/app.js" && coding !== undefined) expect(decoded.toString()).toBe(`${LONG}prebuilt`);
    else expect(decoded.equals(plain.bytes)).toBe(true);
    // §8.8.3.3 each coding has its own tag; §15.4.5 a 304 varies too; §9.3.2 HEAD says what GET would.
    expect(fields.etag === plain.fields.etag).toBe(coding === undefined);
    const current = await get(site, `GET ${path}`, { ...headers, "if-none-match": fields.etag! });
    expect([current.status, current.fields.vary, current.fields.etag]).toEqual([
      304,
      fields.vary,
      fields.etag,
    ]);
    expect((await get(site, `HEAD ${path}`, headers)).fields).toEqual(fields);
  });

  test.each<[string, string, string, string | undefined, string | undefined]>([
    ["compressed by itself, and told so", "/bird.svgz", BROWSER, "gzip", undefined],
    ["whatever is asked for", "/bird.svgz", "identity", "gzip", undefined],
    ["a name alone says nothing", "/plain.svgz", BROWSER, "br", "Accept-Encoding"],
    ["nothing in it", "/none.svgz", BROWSER, undefined, "Accept-Encoding"],
  ])("a drawing in gzip: %s", async (_sentence, path, accept, coding, vary) => {
    const headers = { "accept-encoding": accept };
    const { status, fields, bytes } = await get(site, `GET ${path}`, headers);
    expect([
      status,
      fields["content-type"],
      fields["content-encoding"],
      fields.vary,
      fields["content-length"],
    ]).toEqual([200, "image/svg+xml", coding, vary, String(bytes.length)]);
    if (coding === "gzip") expect(gunzipSync(bytes).toString()).toBe(DRAWING);
    const part = await get(site, `GET ${path}`, { ...headers, range: "bytes=0-1" });
    expect(part.fields["content-encoding"]).toBe(coding);
  });

  test("RFC 9111 §5.2.1.6 a request for no transformation gets the bytes that lie there", async () => {
    const headers = { "accept-encoding": BROWSER, "cache-control": "no-transform" };
    expect((await get(site, "GET /page.html", headers)).fields["content-encoding"]).toBeUndefined();
    expect((await get(site, "GET /app.js", headers)).fields["content-encoding"]).toBe("br");
  });

  test("§14.2 a range is of the bytes in their coding", async () => {
    const headers = { "accept-encoding": "gzip" };
    const whole = await get(site, "GET /page.html", headers);
    const first = await get(site, "GET /page.html", { ...headers, range: "bytes=0-9" });
    const rest = await get(site, "GET /page.html", {
      ...headers,
      range: "bytes=10-",
      "if-range": whole.fields.etag!,
    });
    expect([first.status, rest.status, first.fields["content-encoding"]]).toEqual([206, 206, "gzip"]);
    expect(gunzipSync(Buffer.concat([first.bytes, rest.bytes])).toString()).toBe(LONG);
    const several = await get(site, "GET /page.html", { ...headers, range: "bytes=0-1,4-5" });
    expect([several.status, several.bytes.length]).toEqual([206, Number(several.fields["content-length"])]);
  });

  test("a changed file is compressed anew", async () => {
    const headers = { "accept-encoding": "br" };
    await get(site, "GET /page.html", headers);
    writeFileSync(join(tree.root, "page.html"), LONG.toUpperCase());
    const { bytes } = await get(site, "GET /page.html", headers);
    expect(brotliDecompressSync(bytes).toString()).toBe(LONG.toUpperCase());
  });

  test("once per file and coding however many ask, and no more is kept than may be", async () => {
    const compressor = makeCompressor(new Memory().open({ ...MADE_CODINGS, bound: 20_000 }));
    let reads = 0;
    const noise = (seed: number) =>
      Buffer.concat(
        Array.from({ length: 280 }, (_, i) => createHash("sha256").update(`${seed} ${i}`).digest()),
      ).map((byte) => byte & 63);
    const read = (seed: number) => async () => {
      reads++;
      return noise(seed);
    };
    const keys = Array.from({ length: 8 }, (_, i) => ({ address: String(i), version: {} }));
    const all = await Promise.all(
      Array.from({ length: 20 }, () => compressor.compress(keys[0]!, "gzip", read(0))),
    );
    expect([reads, new Set(all).size]).toEqual([1, 1]);
    await compressor.compress(keys[0]!, "gzip", read(0));
    await compressor.compress(keys[0]!, "br", read(0));
    await compressor.compress(keys[0]!, "gzip", read(0));
    expect(reads).toBe(2);
    for (const [i, key] of keys.entries()) await compressor.compress(key, "gzip", read(i));
    reads = 0;
    await compressor.compress(keys[7]!, "gzip", read(7));
    expect(reads).toBe(0);
    await compressor.compress(keys[0]!, "gzip", read(0));
    expect(reads).toBe(1);
    // Another version of a file takes the place of the one before it.
    await compressor.compress({ ...keys[0]!, version: {} }, "gzip", read(0));
    await compressor.compress(keys[0]!, "gzip", read(0));
    expect(reads).toBe(3);
    await expect(
      compressor.compress({ address: "x", version: {} }, "br", () => Promise.reject(new Error("gone"))),
    ).rejects.toThrow("gone");
  });
});

describe("caching rules, RFC 9111 §5.2.2", () => {
  const YEAR = "public, max-age=31536000, immutable";
  const rules: AreaConfig = {
    caching: [
      { files: "fingerprinted", policy: "immutable" },
      { files: ["*.tmp", "private/**"], policy: "no-store" },
      { files: "*.html", policy: "revalidate" },
      { files: "media/**", policy: { maxAge: "10m", staleWhileRevalidate: "1d", staleIfError: "1w" } },
      {
        files: "shared.txt",
        policy: { maxAge: 60, sharedMaxAge: "1h", mustRevalidate: true },
        cdn: { maxAge: "1d" },
      },
      { files: "own.txt", policy: { private: true, maxAge: "5m", noTransform: true } },
      { files: "fixed.txt", policy: { maxAge: "1y", immutable: true } },
      { files: "*.txt", policy: { maxAge: "1h" } },
    ],
    appShell: "/shell.txt",
    areas: { "/media/live": { caching: [] } },
  } as AreaConfig;
  const names = [
    "app-Dct7elz_.js",
    "a.tmp",
    "private/a-5f3a91bc.txt",
    "private/a.html",
    "index.html",
    "media/a.mp3",
    "shared.txt",
    "own.txt",
    "fixed.txt",
    "other.txt",
    "plain.js",
    "media/live/a.mp3",
    "shell.txt",
  ];
  const open = () => openWith(Object.fromEntries(names.map((name) => [name, "x"])), rules);

  test.each([
    ["a fingerprint", "/app-Dct7elz_.js", YEAR],
    ["a pattern of a list", "/a.tmp", "no-store"],
    ["the first that matches decides", "/private/a-5f3a91bc.txt", YEAR],
    ["the first that matches decides, again", "/private/a.html", "no-store"],
    ["documents are revalidated", "/index.html", "no-cache"],
    ["RFC 5861", "/media/a.mp3", "max-age=600, stale-while-revalidate=86400, stale-if-error=604800"],
    ["shared caches", "/shared.txt", "max-age=60, s-maxage=3600, must-revalidate"],
    ["private, and not to be changed", "/own.txt", "private, max-age=300, no-transform"],
    ["RFC 8246", "/fixed.txt", "max-age=31536000, immutable"],
    ["a later rule", "/other.txt", "max-age=3600"],
    ["no rule: revalidated", "/plain.js", "no-cache"],
    ["an area replaces them", "/media/live/a.mp3", "no-cache"],
    ["the shell at its own address", "/shell.txt", "max-age=3600"],
    ["the shell elsewhere is revalidated", "/deep/link", "no-cache"],
  ])("%s", async (_sentence, path, expected) => {
    const site = await open();
    const { fields } = await get(site, `GET ${path}`, { accept: "text/html" });
    expect(fields["cache-control"]).toBe(expected);
    const current = await get(site, `GET ${path}`, { accept: "text/html", "if-none-match": "*" });
    expect([current.status, current.fields["cache-control"]]).toEqual([304, expected]);
    expect(fields["cdn-cache-control"]).toBe(path === "/shared.txt" ? "max-age=86400" : undefined);
  });

  test("start-up warns of long lifetimes for names without a fingerprint", async () => {
    const warn = async (caching: AreaConfig["caching"]) =>
      (await openWith({ "a.css": "", "index.html": "", "x-5f3a91bc.css": "" }, { caching })).warnings;
    expect(await warn([{ files: "fingerprinted", policy: "immutable" }])).toEqual([]);
    expect(await warn([{ files: "**", policy: { maxAge: "1h" } }])).toEqual([]);
    expect(await warn([{ files: "**", policy: "immutable" }])).toEqual([
      "mounts[0].caching[0] (**): keeps files without a fingerprint in their names for 365 days, among them index.html and 1 more; visitors see a change that much later. Write files: fingerprinted, or a shorter maxAge; if the build does make these names from the content, say so with fingerprints.",
    ]);
  });
});

describe("validators, RFC 9110 §8.8", () => {
  const tagOf = (bytes: string | Buffer): string =>
    `"${createHash("sha256").update(bytes).digest("base64url").slice(0, 22)}"`;
  const CHOICES = ["automatic", "content", "metadata"] as const;

  test.each(CHOICES)(
    "%s: equal bytes and times have equal tags on every machine; other bytes or times others, where they count",
    async (validators) => {
      const tag = async (text: string, at: number) =>
        (
          await get(
            await openSite({
              mounts: [{ source: memorySource({ "a.txt": text }, { modified: new Date(at) }), validators }],
            }),
            "GET /a.txt",
          )
        ).fields.etag!;
      const first = await tag("same", 1e12);
      expect(await tag("same", 1e12)).toBe(first);
      expect((await tag("same", 1.5e12)) === first).toBe(validators !== "metadata");
      expect((await tag("else", 1e12)) === first).toBe(validators === "metadata");
      expect(await tag("longer", 1e12)).not.toBe(first);
      if (validators !== "metadata") expect(first).toBe(tagOf("same"));
      // Nothing is to be read off it.
      else expect(first).not.toMatch(new RegExp(`\\b(4|${(1e18).toString(36)}|${1e12})\\b`));
    },
  );

  test("from a folder: of all the bytes, in a large file as it is chosen; one file is read once, however many ask", async () => {
    const large = Buffer.alloc(1_048_577, "x");
    const tree = await makeTree({ "large.bin": large, "limit.bin": large.subarray(1), "empty.txt": "" });
    const tags = async (validators: (typeof CHOICES)[number]) => {
      const site = await openSite({ mounts: [{ folder: tree.root, validators }] });
      return Promise.all(
        ["large.bin", "limit.bin", "empty.txt"].map(
          async (name) => (await get(site, `HEAD /${name}`)).fields.etag,
        ),
      );
    };
    const [automatic, content, metadata] = [
      await tags("automatic"),
      await tags("content"),
      await tags("metadata"),
    ];
    expect(content).toEqual([tagOf(large), tagOf(large.subarray(1)), tagOf("")]);
    expect(automatic).toEqual([metadata[0], content[1], content[2]]);
    let digests = 0;
    const source = memorySource({ "a.bin": large });
    const counted: FileSource = {
      ...source,
      async open(path) {
        const found = await source.open(path);
        if (found.kind !== "file") return found;
        const { file } = found;
        return {
          kind: "file",
          file: {
            metadata: file.metadata,
            read: file.read,
            close: file.close,
            digest: () => {
              digests++;
              return file.digest();
            },
          },
        };
      },
    };
    const site = await openSite({ mounts: [{ source: counted, validators: "content" }] });
    await Promise.all(Array.from({ length: 8 }, () => get(site, "HEAD /a.bin")));
    expect([(await get(site, "GET /a.bin")).fields.etag, digests]).toEqual([tagOf(large), 1]);
    await tree.remove();
  });

  // Reproducible builds and images give every file one time: what is exchanged has the size and the time of what was there.
  test.each<[string, number, (typeof CHOICES)[number]]>([
    ["a page", 4_000, "automatic"],
    ["a large file", 1_200_000, "automatic"],
    ["a file that is too large to be read for it", 70_000_000, "automatic"],
    ["by choice", 1_200_000, "content"],
  ])("a release of equal sizes and times is exchanged: %s", async (_what, size, validators) => {
    const release = async (fill: string) => {
      const tree = await makeTree({ "page.html": Buffer.alloc(size, fill), "other.js": fill });
      for (const name of ["page.html", "other.js"])
        utimesSync(join(tree.root, name), 315_532_800, 315_532_800);
      return tree;
    };
    const [old, next] = [await release("a"), await release("b")];
    const root = join(old.root, "current");
    renameSync(old.root, `${old.root}-old`);
    mkdirSync(old.root);
    renameSync(`${old.root}-old`, root);
    const site = await openSite({ mounts: [{ folder: root, validators }] });
    const before = (await get(site, "HEAD /page.html")).fields;
    const since = new Date(315_532_800_000).toUTCString();
    const ask = async (headers: Record<string, string>) => {
      const answer = await get(site, "GET /page.html", headers);
      return `${answer.status} ${answer.bytes.length} ${answer.bytes.toString("latin1", 0, 1)}`;
    };
    expect(await ask({ "if-none-match": before.etag! })).toBe("304 0 ");
    renameSync(root, `${root}-old`);
    renameSync(next.root, root);
    expect(await ask({ "if-none-match": before.etag! })).toBe(`200 ${size} b`);
    expect(await ask({ "if-modified-since": since })).toBe(`200 ${size} b`);
    expect(await ask({ range: "bytes=1-9", "if-range": before.etag! })).toBe(`200 ${size} b`);
    expect(await ask({ range: "bytes=1-9", "if-range": since })).toBe(`200 ${size} b`);
    const after = (await get(site, "HEAD /page.html")).fields;
    expect([before["last-modified"], after["last-modified"], after.etag === before.etag]).toEqual([
      undefined,
      undefined,
      false,
    ]);
    expect(await ask({ range: "bytes=1-9", "if-range": after.etag! })).toBe("206 9 b");
    await old.remove();
  });

  const NOW = 0;
  test.each<[string, Record<string, number>, string[]]>([
    ["one time for all", { "a.txt": 1e9, "b.txt": 1e9, "c.txt": 1e9 }, []],
    ["most have it, and the others their own", { "a.txt": 1e9, "b.txt": 1e9, "c.txt": 1.1e9 }, ["c.txt"]],
    [
      "half of them have it",
      { "a.txt": 1e9, "b.txt": 1e9, "c.txt": 1.1e9, "d.txt": 1.2e9 },
      ["a.txt", "b.txt", "c.txt", "d.txt"],
    ],
    ["each its own", { "a.txt": 1e9, "b.txt": 1.1e9 }, ["a.txt", "b.txt"]],
    ["one time, which is no whole second", { "a.txt": 1e9 + 0.5, "b.txt": 1e9 + 0.5 }, ["a.txt", "b.txt"]],
    ["nothing is beside it", { "a.txt": 1e9 }, []],
    ["written now", { "a.txt": NOW, "b.txt": NOW }, ["a.txt", "b.txt"]],
  ])("a date is told where it says something: %s", async (_sentence, times, told) => {
    const tree = await makeTree({
      ...Object.fromEntries(Object.keys(times).map((name) => [name, name])),
      "folder/x": "x",
    });
    for (const [name, time] of Object.entries(times))
      utimesSync(
        join(tree.root, name),
        time || Math.floor(Date.now() / 1000),
        time || Math.floor(Date.now() / 1000),
      );
    const dated = async (rules: AreaConfig) => {
      const site = await openSite({ mounts: [{ folder: tree.root, ...rules }] });
      const found = await Promise.all(
        Object.keys(times).map(async (name) =>
          (await get(site, `HEAD /${name}`)).fields["last-modified"] === undefined ? [] : [name],
        ),
      );
      return found.flat();
    };
    expect([await dated({}), await dated({ validators: "metadata" })]).toEqual([told, Object.keys(times)]);
    await tree.remove();
  });

  test.each<[string, number, number]>([
    ["changed just now: it is looked at each time", 0, 4],
    ["changed a while ago: it is looked at once", 5000, 1],
  ])("bytes that change while no time tells of it, in a file that %s", async (_sentence, agoMs, looked) => {
    const metadata = {
      sizeBytes: 3000,
      modifiedNs: 10n ** 18n,
      changedNs: BigInt(Date.now() - agoMs) * 1_000_000n,
    };
    let [letter, digests] = ["a", 0];
    const bytes = () => Buffer.alloc(3000, letter);
    const file = {
      metadata,
      read: async (from: number, length: number) => bytes().subarray(from, from + length),
      digest: async () => {
        digests++;
        return createHash("sha256").update(bytes()).digest("base64url");
      },
      close() {},
    };
    const site = await openSite({
      mounts: [{ source: { ...memorySource({}), open: () => ({ kind: "file", file }) } }],
    });
    const ask = async () => {
      const [plain, coded] = [
        await get(site, "GET /page.html"),
        await get(site, "GET /page.html", { "accept-encoding": "gzip" }),
      ];
      return [plain.fields.etag, coded.fields.etag, gunzipSync(coded.bytes).toString("latin1", 0, 1)];
    };
    const first = await ask();
    letter = "b";
    const again = await ask();
    expect([first.map((one, i) => one === again[i]), digests]).toEqual([Array(3).fill(agoMs > 0), looked]);
  });

  test("a 304 has the tag and no date; a shell too", async () => {
    const site = await openWith({ "index.html": "app" }, { appShell: "/index.html" });
    for (const path of ["/index.html", "/deep/link"]) {
      const { fields } = await get(site, `GET ${path}`, { accept: "text/html" });
      const again = await get(site, `GET ${path}`, { accept: "text/html", "if-none-match": fields.etag! });
      expect([
        fields["last-modified"] !== undefined,
        again.status,
        again.fields.etag,
        again.fields["last-modified"],
      ]).toEqual([true, 304, fields.etag, undefined]);
    }
  });
});

test.each<[string, string, Record<string, string>, number, string | undefined]>([
  ["without its extension", "GET /guide/about", {}, 200, "./about.html"],
  ["with HEAD", "HEAD /guide/about?q", {}, 200, "./about.html"],
  ["a current copy", "GET /guide/about", { "if-none-match": "*" }, 304, "./about.html"],
  ["a part", "GET /guide/about", { range: "bytes=0-1" }, 206, "./about.html"],
  ["in a coding", "GET /guide/about", { "accept-encoding": "br" }, 200, "./about.html"],
  ["letters that an address escapes", "GET /guide/what%3F%20%C3%A9", {}, 200, "./what%3F%20%C3%A9.html"],
  ["its own address", "GET /guide/about.html", {}, 200, undefined],
  ["a default document", "GET /guide/", {}, 200, undefined],
  ["no such part", "GET /guide/about", { range: "bytes=9000000-" }, 416, undefined],
])(
  "Content-Location names the file that a shorter address leads to, RFC 9110 §8.7: %s",
  async (_what, request, headers, status, location) => {
    const site = await openWith(
      { "guide/about.html": LONG, "guide/what? é.html": "what", "guide/index.html": "i" },
      {},
    );
    // Asked twice, each by turns: what is remembered of the file at one address is not sent at the other.
    for (const _ of [1, 2]) {
      const { fields, status: got } = await get(site, request, headers);
      expect([got, fields["content-location"]]).toEqual([status, location]);
      await get(site, "GET /guide/about.html");
    }
  },
);

describe("delivery", () => {
  const rules: AreaConfig = {
    headers: [
      { files: "**", set: { "Referrer-Policy": "no-referrer" } },
      {
        files: "*.html",
        set: { "Content-Security-Policy": "default-src 'self'", "referrer-policy": "same-origin" },
      },
    ],
    downloads: ["*.csv", { files: "report.pdf", saveAs: "Óðinn 2026.pdf" }],
    mediaTypes: {
      ".brl": 'application/x-birds; form="a.b"; level=12',
      ".BRD": "text/X-Bird",
      ".tar.brd": "application/x-birds",
    },
    errorPages: { 404: "/404.html" },
  };
  const tree = {
    "a.html": "a",
    "b.css": "b",
    "c.csv": "c",
    "report.pdf": "%PDF-",
    "x.brd": "x",
    "x.brl": "x",
    "x.tar.brd": "x",
    "404.html": "gone",
    page: "<!doctype html>",
    data: "\0\x01",
  };
  test.each<[string, string, Record<string, string | undefined>]>([
    ["a header rule", "/b.css", { "referrer-policy": "no-referrer", "content-security-policy": undefined }],
    [
      "a later rule replaces the field, whatever its case",
      "/a.html",
      { "referrer-policy": "same-origin", "content-security-policy": "default-src 'self'" },
    ],
    [
      "an error page has its headers too",
      "/nope",
      { "content-security-policy": "default-src 'self'", "cache-control": "no-cache" },
    ],
    ["a download", "/c.csv", { "content-disposition": 'attachment; filename="c.csv"' }],
    [
      "a download under another name",
      "/report.pdf",
      {
        "content-disposition":
          "attachment; filename=\"O_inn 2026.pdf\"; filename*=UTF-8''%C3%93%C3%B0inn%202026.pdf",
      },
    ],
    ["shown in place", "/a.html", { "content-disposition": undefined }],
    ["a type of one's own, whatever the case", "/x.brd", { "content-type": "text/x-bird; charset=utf-8" }],
    ["a type with parameters", "/x.brl", { "content-type": 'application/x-birds; form="a.b"; level=12' }],
    ["a type for two extensions", "/x.tar.brd", { "content-type": "application/x-birds" }],
    ["a name without meaning: the content decides", "/page", { "content-type": "text/html; charset=utf-8" }],
    ["a name without meaning: binary", "/data", { "content-type": "application/octet-stream" }],
    ["always", "/data", { "x-content-type-options": "nosniff" }],
  ])("%s: %s", async (_sentence, path, expected) => {
    const { fields } = await get(await openWith(tree, rules), `GET ${path}`);
    for (const [name, value] of Object.entries(expected)) expect(fields[name], name).toBe(value);
  });

  test("one file on one route, saved under a name", async () => {
    const site = await openWith({ "a b.csv": "a" }, {});
    const disposition = async (saveAs: string | true) =>
      fieldsOf(
        await site.file("/a b.csv", { saveAs }).respond({ method: "HEAD", target: "/x", headers: {} }),
      )["content-disposition"];
    expect(await disposition(true)).toBe('attachment; filename="a b.csv"');
    expect(await disposition("season.csv")).toBe('attachment; filename="season.csv"');
  });

  test("types from the system's file go before the table, and one's own before them", async () => {
    const files = await makeTree({
      "mime.types": "# the system's\ntext/x-note txt note\n",
      "wrong.types": "text/plain a\nnonsense b\n",
      "public/a.txt": "a",
      "public/b.note": "b",
      "public/c.css": "c",
    });
    const open = (typesFile: string) =>
      openSite({
        base: files.root,
        typesFile,
        mediaTypes: { ".note": "text/x-own" },
        mounts: [{ folder: "public" }],
      });
    const site = await open("mime.types");
    const types = await Promise.all(
      ["/a.txt", "/b.note", "/c.css"].map(
        async (path) => (await get(site, `GET ${path}`)).fields["content-type"],
      ),
    );
    expect(types).toEqual([
      "text/x-note; charset=utf-8",
      "text/x-own; charset=utf-8",
      "text/css; charset=utf-8",
    ]);
    await expect(open("wrong.types")).rejects.toThrow(
      'typesFile: line 2 of wrong.types begins with "nonsense"; a line begins with a media type: write it as "text/x-bird brd".',
    );
    await expect(open("none.types")).rejects.toThrow('typesFile: found "none.types", which does not exist;');
    await files.remove();
  });
});

describe("other origins, Fetch Standard §3.2", () => {
  const A = "https://a.example";
  const preflight = {
    origin: A,
    "access-control-request-method": "GET",
    "access-control-request-headers": "range",
  };
  const site = (crossOrigin: AreaConfig["crossOrigin"]) =>
    openWith({ "a.png": "x", "index.html": "x" }, {
      crossOrigin,
      areas: { "/closed": { crossOrigin: false } },
    } as AreaConfig);
  test.each<
    [
      string,
      AreaConfig["crossOrigin"],
      string,
      Record<string, string>,
      number,
      Record<string, string | undefined>,
    ]
  >([
    [
      "closed by default",
      false,
      "GET /a.png",
      { origin: A },
      200,
      {
        "access-control-allow-origin": undefined,
        "cross-origin-resource-policy": undefined,
        vary: undefined,
      },
    ],
    [
      "any origin",
      "*",
      "GET /a.png",
      {},
      200,
      { "access-control-allow-origin": "*", "cross-origin-resource-policy": "cross-origin", vary: undefined },
    ],
    [
      "an origin of the list",
      [A],
      "GET /a.png",
      { origin: A },
      200,
      { "access-control-allow-origin": A, vary: "Origin" },
    ],
    [
      "another origin",
      [A],
      "GET /a.png",
      { origin: "https://b.example" },
      200,
      { "access-control-allow-origin": undefined, vary: "Origin" },
    ],
    [
      "no origin at all varies too",
      [A],
      "GET /a.png",
      {},
      200,
      { "access-control-allow-origin": undefined, vary: "Origin" },
    ],
    ["on a 304", "*", "GET /a.png", { "if-none-match": "*" }, 304, { "access-control-allow-origin": "*" }],
    [
      "on a 304 of a list",
      [A],
      "GET /a.png",
      { origin: A, "if-none-match": "*" },
      304,
      { "access-control-allow-origin": A, vary: "Origin" },
    ],
    [
      "on an error, so that it can be read",
      "*",
      "GET /nope",
      {},
      404,
      { "access-control-allow-origin": "*" },
    ],
    [
      "what a script may see",
      "*",
      "GET /a.png",
      { range: "bytes=0-0" },
      206,
      {
        "access-control-expose-headers":
          "Accept-Ranges, Content-Encoding, Content-Length, Content-Range, ETag",
      },
    ],
    [
      "a preflight",
      "*",
      "OPTIONS /a.png",
      preflight,
      204,
      {
        "access-control-allow-origin": "*",
        "access-control-allow-methods": "GET, HEAD",
        "access-control-max-age": "600",
      },
    ],
    [
      "a preflight grants what readers send",
      [A],
      "OPTIONS /a.png",
      preflight,
      204,
      {
        "access-control-allow-origin": A,
        "access-control-allow-headers": expect.stringContaining("Range") as unknown as string,
        vary: "Origin",
      },
    ],
    [
      "a preflight of another origin",
      [A],
      "OPTIONS /a.png",
      { ...preflight, origin: "https://b.example" },
      204,
      { "access-control-allow-origin": undefined, "access-control-allow-methods": undefined, vary: "Origin" },
    ],
    [
      "a preflight for HEAD",
      [A],
      "OPTIONS /a.png",
      { ...preflight, "access-control-request-method": "HEAD" },
      204,
      { "access-control-allow-origin": A, "access-control-allow-methods": "GET, HEAD" },
    ],
    [
      "a preflight to write",
      "*",
      "OPTIONS /a.png",
      { ...preflight, "access-control-request-method": "PUT" },
      204,
      { "access-control-allow-origin": undefined },
    ],
    [
      "a preflight where it is closed",
      false,
      "OPTIONS /a.png",
      preflight,
      204,
      { "access-control-allow-origin": undefined, allow: "GET, HEAD, OPTIONS" },
    ],
  ])("%s", async (_sentence, crossOrigin, request, headers, status, expected) => {
    const answer = await get(await site(crossOrigin), request, headers);
    expect(answer.status).toBe(status);
    for (const [name, value] of Object.entries(expected)) expect(answer.fields[name], name).toEqual(value);
  });

  test("with an application behind, a preflight to write is the application's", async () => {
    expect(
      (
        await ask(
          await site("*"),
          "OPTIONS /a.png",
          { ...preflight, "access-control-request-method": "PUT" },
          { mayPass: true },
        )
      ).summary,
    ).toBe("pass method-passed-on");
    expect((await ask(await site("*"), "OPTIONS /a.png", preflight, { mayPass: true })).summary).toBe(
      "204 preflight",
    );
    expect((await ask(await site("*"), "OPTIONS /api/birds", preflight, { mayPass: true })).summary).toBe(
      "pass method-passed-on",
    );
  });
});

test.each<[object, string]>([
  [{ headers: [{ files: "*", set: { "X\r\nY": "z" } }] }, "a field name has letters, digits and dashes"],
  [{ headers: [{ files: "*", set: { "X-A": "a\r\nSet-Cookie: b" } }] }, "a field value is one line of ASCII"],
  [
    { headers: [{ files: "*", set: { "Content-Length": "5" } }] },
    "you cannot set this field here, because it is part of the message format, and always set",
  ],
  [
    { headers: [{ files: "*", set: { "cache-control": "x" } }] },
    "you cannot set this field here, because the key caching sets it",
  ],
  [{ caching: [{ files: "*", policy: "forever" }] }, 'write "immutable" or "revalidate" or "no-store"'],
  [
    { caching: [{ files: "*", policy: { maxAge: "10 minutes" } }] },
    'found "10 minutes"; a duration is seconds, or a number with a unit: write it as "10m", "7d" or "1y"',
  ],
  [{ caching: [{ files: "*", policy: {} }] }, "a policy says something: write policy: revalidate"],
  [
    { caching: [{ files: "*", policy: { private: true, sharedMaxAge: 1 } }] },
    "leave out private or sharedMaxAge",
  ],
  [{ caching: [{ files: "*", policy: { maxage: 1 } }] }, 'found the key "maxage"; write "maxAge"'],
  [
    { crossOrigin: ["example.org"] },
    'an origin is scheme, host and port, and no more: write it as "https://example.org"',
  ],
  [{ crossOrigin: ["https://example.org/"] }, "an origin is scheme, host and port"],
  [{ downloads: [{ files: "*", saveAs: "a/b" }] }, "a name to save under has no folder"],
  [
    { codings: { prebuilt: ["lz4"] } },
    'mounts[0].codings.prebuilt[0]: found "lz4"; write "br" or "zstd" or "gzip"',
  ],
  [{ validators: "hash" }, 'write "automatic" or "content" or "metadata"'],
])("%j is refused with what to write", async (rules, message) => {
  await expect(openSite({ mounts: [{ source: memorySource({}), ...rules }] } as SiteConfig)).rejects.toThrow(
    message,
  );
});

test.each<[MountConfig["noVarySearch"], string | undefined]>([
  [true, "params"],
  [["utm_source", "utm_medium"], 'params=("utm_source" "utm_medium")'],
  [{ except: ["page"] }, 'params, except=("page")'],
  [false, undefined],
])("what a query means to files: %j", async (noVarySearch, expected) => {
  const site = await openSite({
    mounts: [{ source: memorySource({ "a.html": "a" }), listing: true, noVarySearch }],
  });
  expect((await get(site, "GET /a.html?x")).fields["no-vary-search"]).toBe(expected);
  // A listing's query means something.
  expect((await get(site, "GET /?order=size")).fields["no-vary-search"]).toBeUndefined();
  await expect(openSite({ mounts: [{ source: memorySource({}), noVarySearch: ['a"b'] }] })).rejects.toThrow(
    "a parameter is a name of a query",
  );
});
