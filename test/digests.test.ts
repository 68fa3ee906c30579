import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { truncateSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { formatSha256, parseSha256, toHex, wantsSha256 } from "../src/core/fields/digest-fields.js";
import { type MountConfig, memorySource, readPlan, type Site } from "../src/index.js";
import { openSite } from "./counting-source.js";
import { makeTree, type Tree } from "./helpers.js";

// Digests that a client can hold what it got against.
const TEXT = "Larkholm ".repeat(500);
const LARGE = Buffer.alloc(2 * 1024 * 1024, "curlew");
const sha256 = (bytes: string | Uint8Array): string => createHash("sha256").update(bytes).digest("base64url");
const field = (bytes: string | Uint8Array): string => formatSha256(sha256(bytes));
let tree: Tree;

beforeAll(async () => {
  tree = await makeTree({
    "note.txt": TEXT,
    "large.bin": LARGE,
    "downloads/a.zip": "one",
    "downloads/b c.zip": "two",
    "downloads/odd\\name.txt": "three",
    "downloads/inner/x.txt": "x",
    "folders/inner/x.txt": "x",
    ...Object.fromEntries(Array.from({ length: 12 }, (_, i) => [`many/${i}.txt`, String(i)])),
  });
  // What was written a moment ago may change again without a sign: its digest is not known yet.
  execFileSync("touch", [
    "-d",
    "2026-01-01",
    ...["note.txt", "large.bin"].map((name) => join(tree.root, name)),
  ]);
});
afterAll(() => tree.remove());

const open = (mount: MountConfig = {}): Promise<Site> =>
  openSite({ mounts: [{ folder: tree.root, digests: true, listing: true, ...mount }] });

async function ask(
  site: Site,
  target: string,
  headers: Record<string, string> = {},
  method = "GET",
): Promise<{
  status: number;
  repr: string | undefined;
  content: string | undefined;
  body: Buffer;
  coding: string | undefined;
}> {
  const answer = await site.respond({ method, target, headers });
  if (answer.kind === "pass") throw new Error("passed");
  const { status, fields } = answer;
  return {
    status,
    repr: fields.get("Repr-Digest"),
    content: fields.get("Content-Digest"),
    coding: fields.get("Content-Encoding"),
    body: Buffer.from(await readPlan(answer)),
  };
}
const REPR = { "want-repr-digest": "sha-256=5" };
const CONTENT = { "want-content-digest": "sha-256=1" };

test("of the whole representation: where it is known, and where it is asked for; in parts and codings, too", async () => {
  const site = await open();
  expect((await ask(site, "/note.txt", REPR)).repr).toBe(field(TEXT));
  // Large, and nobody has read it.
  expect((await ask(site, "/large.bin")).repr).toBeUndefined();
  expect((await ask(site, "/large.bin", REPR)).repr).toBe(field(LARGE));
  const part = await ask(site, "/large.bin", { ...REPR, range: "bytes=10-19" });
  expect([part.status, part.repr]).toEqual([206, field(LARGE)]);
  const several = await ask(site, "/large.bin", { ...REPR, range: "bytes=0-1,100-101" });
  expect([several.status, several.repr]).toEqual([206, field(LARGE)]);
  const coded = await ask(site, "/note.txt", { ...REPR, "accept-encoding": "br" });
  expect([coded.coding, coded.repr]).toEqual(["br", field(coded.body)]);
  expect((await ask(site, "/note.txt", REPR, "HEAD")).repr).toBe(field(TEXT));
  expect((await ask(site, "/none", { ...REPR, ...CONTENT })).repr).toBeUndefined();
  const off = await openSite({ mounts: [{ folder: tree.root }] });
  expect(await ask(off, "/note.txt", { ...REPR, ...CONTENT })).toMatchObject({
    repr: undefined,
    content: undefined,
  });
});

test("of what is sent, where that is asked for", async () => {
  const site = await open();
  for (const headers of [
    {},
    { range: "bytes=10-19" },
    { range: "bytes=0-1,100-101" },
    { "accept-encoding": "gzip" },
    { "accept-encoding": "gzip", range: "bytes=1-9" },
  ] as Record<string, string>[]) {
    const { content, body } = await ask(site, "/note.txt", { ...headers, ...CONTENT });
    expect(content).toBe(field(body));
  }
  expect((await ask(site, "/note.txt", { "want-content-digest": "sha-512=3" })).content).toBeUndefined();
  // Nothing is sent.
  for (const [headers, method, status] of [
    [{ "if-none-match": "*" }, "GET", 304] as const,
    [{ range: "bytes=0-1" }, "HEAD", 200] as const,
    [{ range: "bytes=99999-" }, "GET", 416] as const,
  ])
    expect(await ask(site, "/note.txt", { ...headers, ...CONTENT }, method)).toMatchObject({ status });
});

test("a file that changes has another digest at once", async () => {
  const site = await open();
  const path = join(tree.root, "changing.txt");
  for (const text of ["first", "other"]) {
    writeFileSync(path, text);
    expect((await ask(site, "/changing.txt", REPR)).repr).toBe(field(text));
  }
});

describe("of a folder", () => {
  const list = async (site: Site, accept: string): Promise<string> =>
    String((await ask(site, "/downloads/?digests", { accept })).body);

  test("as the list that sha256sum reads, and as JSON", async () => {
    const site = await open();
    const text = await list(site, "*/*");
    expect(text).toBe(
      `${toHex(sha256("one"))}  a.zip\n${toHex(sha256("two"))}  b c.zip\n\\${toHex(sha256("three"))}  odd\\\\name.txt\n`,
    );
    const said = execFileSync("sha256sum", ["--check", "--strict"], {
      cwd: join(tree.root, "downloads"),
      input: text,
      encoding: "utf8",
    });
    expect(said.match(/: OK$/gm)).toHaveLength(3);
    expect(await list(site, "text/html")).toBe(text);
    const { entries } = JSON.parse(await list(site, "application/json")) as {
      entries: { name: string; digest?: string }[];
    };
    expect(entries.map(({ name, digest }) => [name, digest])).toEqual([
      ["inner", undefined],
      ["a.zip", field("one")],
      ["b c.zip", field("two")],
      ["odd\\name.txt", field("three")],
    ]);
    const offers = await Promise.all(
      ["/downloads/", "/many/", "/folders/"].map(async (path) =>
        String((await ask(site, path, { accept: "text/html" })).body).includes(
          '<a href="./?digests">Digests of these files</a>',
        ),
      ),
    );
    expect(offers).toEqual([true, true, false]);
  });

  test("page by page, and only where it is on", async () => {
    const paged = await open({ listing: { pageSize: 10 } });
    expect(String((await ask(paged, "/many/?digests")).body)).toContain(
      "# page 1 of 2; the next one is ?digests&page=2\n",
    );
    expect(
      JSON.parse(String((await ask(paged, "/many/?digests", { accept: "application/json" })).body)).next,
    ).toBe("./?digests&page=2");
    expect(String((await ask(paged, "/many/?digests&page=2")).body).split("\n")).toHaveLength(3);
    const off = await openSite({ mounts: [{ folder: tree.root, listing: true }] });
    expect(String((await ask(off, "/downloads/?digests", { accept: "text/plain" })).body)).toContain(
      "a.zip\n",
    );
    expect(String((await ask(off, "/downloads/", { accept: "text/html" })).body)).not.toContain("digests");
  });
});

test("what is sealed, or lies in memory, has digests", async () => {
  const site = await openSite({ mounts: [{ source: memorySource({ "a.txt": "a" }), digests: true }] });
  expect((await ask(site, "/a.txt", REPR)).repr).toBe(field("a"));
  const { openSite: openReal } = await import("../src/index.js");
  const huge = await makeTree({ "huge.bin": "" });
  truncateSync(join(huge.root, "huge.bin"), 65 * 1024 * 1024);
  const list = async (seal: boolean): Promise<string> =>
    String(
      (
        await ask(
          await openReal({ mounts: [{ folder: huge.root, digests: true, listing: true }] }, { seal }),
          "/?digests",
        )
      ).body,
    );
  expect([await list(false), (await list(true)).slice(64)]).toEqual([
    "# no digest: huge.bin\n",
    "  huge.bin\n",
  ]);
  await huge.remove();
  const sealed = await openReal({ mounts: [{ folder: tree.root, digests: true }] }, { seal: true });
  expect((await ask(sealed, "/large.bin")).repr).toBe(field(LARGE));
});

describe("the fields", () => {
  test.each<[string | undefined, boolean]>([
    ["sha-256=10", true],
    ["sha-512=3, sha-256=1", true],
    ["sha-256=0", false],
    ["sha-256=11", false],
    ["sha-256", false],
    ["SHA-256=1", false],
    ["sha-512=3", false],
    ["", false],
    [undefined, false],
  ])("%s asks for SHA-256: %s", (value, expected) => {
    expect(wantsSha256(value)).toBe(expected);
  });

  test("a digest is written, and read again", () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 32, maxLength: 32 }), (bytes) => {
        const text = Buffer.from(bytes).toString("base64url");
        expect(parseSha256(formatSha256(text))).toBe(text);
        expect(toHex(text)).toBe(Buffer.from(bytes).toString("hex"));
        expect(formatSha256(text)).toBe(`sha-256=:${Buffer.from(bytes).toString("base64")}:`);
      }),
    );
  });
});
