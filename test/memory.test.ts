import { mkdirSync, utimesSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { Memory } from "../src/core/memory/memory.js";
import { Store } from "../src/core/memory/store.js";
import {
  type Described,
  type FileProfile,
  type KnownFile,
  keepProfile,
  recallProfile,
} from "../src/core/represent/known-files.js";
import { knownDigest, wholeDigest } from "../src/core/represent/tag.js";
import type { Mount } from "../src/core/rules/mount.js";
import type { Rules } from "../src/core/rules/rules.js";
import type { Variant } from "../src/core/rules/variants.js";
import type { MemoryMetric, OpenedFile, Site } from "../src/index.js";
import { openSite } from "./counting-source.js";
import { ask, makeTree } from "./helpers.js";

const OPTIONS = { name: "things", bound: 10, unit: "bytes", proof: "they are numbers" } as const;

describe("a store", () => {
  test("never holds more than its bound, but for one entry that is larger by itself; the oldest go first", () => {
    const step = fc.oneof(
      fc.record({ kind: fc.constant("set" as const), key: fc.nat(8), cost: fc.integer({ min: 1, max: 14 }) }),
      fc.record({
        kind: fc.constantFrom("use" as const, "get" as const, "delete" as const),
        key: fc.nat(8),
        cost: fc.constant(0),
      }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
        const store = new Store<number, number>(OPTIONS);
        // The literal model: a list, the oldest first.
        let model: { key: number; cost: number }[] = [];
        const sum = (): number => model.reduce((total, { cost }) => total + cost, 0);
        for (const { kind, key, cost } of steps) {
          const there = model.find((one) => one.key === key);
          if (kind === "get" || kind === "use") expect(store[kind](key)).toBe(there?.cost);
          if (kind === "use" && there) model = [...model.filter((one) => one !== there), there];
          if (kind === "delete") store.delete(key);
          if (kind === "delete" || kind === "set") model = model.filter((one) => one !== there);
          if (kind === "set") {
            store.set(key, cost, cost);
            model.push({ key, cost });
            while (sum() > OPTIONS.bound && model.length > 1) model.shift();
          }
          expect([store.size, store.cost]).toEqual([model.length, sum()]);
        }
      }),
    );
  });

  test("metrics tell stores of one name together, and what lies on a shelf", () => {
    const memory = new Memory();
    memory.open<string, string>(OPTIONS).set("a", "a", 4);
    memory.open<string, string>(OPTIONS).set("b", "b", 3);
    const shelf = memory.shelf<string>({ ...OPTIONS, name: "buffers", bound: 1 });
    expect([memory.shelf({ ...OPTIONS, name: "buffers" }), shelf.take()]).toEqual([shelf, undefined]);
    for (const value of ["first", "one too many"]) shelf.put(value);
    expect(memory.metrics()).toEqual([
      { ...OPTIONS, bound: 20, entries: 2, used: 7 },
      { ...OPTIONS, name: "buffers", bound: 1, entries: 1, used: 1 },
    ]);
    expect([shelf.take(), shelf.take()]).toEqual(["first", undefined]);
  });
});

test("every file that is offered, in the order of names: nothing withheld, hidden, without an address, or twice", async () => {
  const tree = await makeTree({
    "b.txt": "22",
    "a/z.txt": "",
    "a/b/c.txt": "",
    "d.bak": "",
    ".env": "",
    "back\\slash": "",
    "docs/hidden.txt": "",
    "z-5f3a91bc.js": "",
    loop: { link: "." },
    "a/up": { link: ".." },
    out: { link: "/etc" },
    again: { link: "b.txt" },
    "to-env": { link: ".env" },
  });
  const other = await makeTree({ "index.html": "i" });
  const list = async (site: Site): Promise<string[]> => {
    const entries: string[] = [];
    for await (const { path, kind, sizeBytes, mediaType = "", fingerprinted, mount } of site.files())
      entries.push(
        [
          path,
          kind[0],
          sizeBytes,
          mediaType,
          fingerprinted ? "fingerprinted" : "",
          mount === "/" ? "" : mount,
        ]
          .join(" ")
          .trim(),
      );
    return entries;
  };
  const site = await openSite({
    mounts: [
      { folder: tree.root, withheld: ["*.bak"] },
      { at: "/docs", folder: other.root, mediaTypes: { ".html": "text/x-own" } },
    ],
  });
  expect((await list(site)).join("\n")).toMatchInlineSnapshot(`
    "/ d 0
    /again f 2 application/octet-stream
    /b.txt f 2 text/plain
    /z-5f3a91bc.js f 0 text/javascript fingerprinted
    /a/ d 0
    /a/z.txt f 0 text/plain
    /a/b/ d 0
    /a/b/c.txt f 0 text/plain
    /loop/ d 0
    /loop/again f 2 application/octet-stream
    /loop/b.txt f 2 text/plain
    /loop/z-5f3a91bc.js f 0 text/javascript fingerprinted
    /loop/a/ d 0
    /loop/a/z.txt f 0 text/plain
    /loop/a/b/ d 0
    /loop/a/b/c.txt f 0 text/plain
    /loop/docs/ d 0
    /loop/docs/hidden.txt f 0 text/plain
    /docs/ d 0   /docs
    /docs/index.html f 1 text/x-own  /docs"
  `);
  await tree.remove();
  await other.remove();
});

test("what is made of a file is known for each use of it, once, and while it is unchanged; its bytes are read once for all", async () => {
  const known = new Store<string, KnownFile>(OPTIONS);
  let digests = 0;
  const file = (age: number): OpenedFile =>
    ({
      metadata: { sizeBytes: 1, modifiedNs: 0n, changedNs: BigInt(NOW - age) * 1_000_000_000n },
      digest: async () => `digest ${++digests}`,
    }) as unknown as OpenedFile;
  const [NOW, rules] = [1_800_000_000, {} as Rules];
  const mount = {} as Mount;
  const use = { address: "a", path: "a", file: file(100), mount, rules, answers: "own address" as const };
  const uses: Described[] = [
    use,
    { ...use, answers: "deep links" },
    { ...use, rules: {} as Rules },
    { ...use, variant: { of: "en", isOther: false } as Variant },
    { ...use, variant: { of: "en", isOther: true } as Variant },
    { ...use, variant: { of: "nb", isOther: true } as Variant },
  ];
  const profiles = uses.map(() => ({}) as FileProfile);
  for (const _ of [1, 2]) for (const [i, one] of uses.entries()) keepProfile(known, one, profiles[i]!);
  expect(uses.map((one) => profiles.indexOf(recallProfile(known, one)!))).toEqual([0, 1, 2, 3, 4, 5]);
  expect([known.get("a")!.profiles.length, recallProfile(known, { ...use, file: file(100) })]).toEqual([
    6,
    undefined,
  ]);
  const digest = (one: Described): Promise<string> => wholeDigest(known, one, NOW);
  expect(await Promise.all([digest(use), digest(use)])).toEqual(["digest 1", "digest 1"]);
  expect([await digest(use), knownDigest(known, use)]).toEqual(["digest 1", "digest 1"]);
  // What changed a moment ago may change again without a sign.
  const young = { ...use, file: file(0) };
  expect([await digest(young), knownDigest(known, young), await digest(young)]).toEqual([
    "digest 2",
    undefined,
    "digest 3",
  ]);
});

describe("what a site remembers", () => {
  const figure = (site: Site, name: RegExp): MemoryMetric =>
    site.memory.metrics().find((one) => name.test(one.name))!;

  test("each store has a bound, a proof of being current and a count", async () => {
    const tree = await makeTree({ "page.html": "x".repeat(2000), "list/a.txt": "a" });
    const { openSite: openUncounted } = await import("../src/index.js");
    const site = await openUncounted({
      mounts: [{ folder: tree.root, areas: { "/list": { listing: true } } }],
    });
    utimesSync(join(tree.root, "list"), 1_790_000_000, 1_790_000_000);
    for (const path of ["/page.html", "/page.html", "/list/", "/nope"])
      await ask(site, `GET ${path}`, { "accept-encoding": "br" });
    expect(site.memory.metrics().map(({ name, entries, unit }) => `${name}: ${entries}, ${unit}`)).toEqual([
      "where paths lie: 3, entries",
      "times that a folder's files share: 0, entries",
      "places of folders: 0, entries",
      "how folders name their files: 0, entries",
      "names that stood for other bytes: 0, entries",
      "descriptions of files: 1, entries",
      "names of listed directories: 1, entries",
      "built-in error pages: 1, entries",
      "codings made on the fly: 1, bytes",
      "answers kept with their bytes: 0, bytes",
    ]);
    for (const { proof, bound, used } of site.memory.metrics())
      expect([proof.length > 10, used <= bound]).toEqual([true, true]);
    await tree.remove();
  });

  test("a prebuilt file that changes again and again leaves one representation behind", async () => {
    const tree = await makeTree({ "page.html": "page", "page.html.br": "1" });
    const site = await openSite({
      mounts: [{ folder: tree.root, validators: "content", codings: { prebuilt: ["br"], compress: false } }],
    });
    const tags = new Set<string>();
    for (let i = 0; i < 20; i++) {
      writeFileSync(join(tree.root, "page.html.br"), `coded ${i}`);
      const { body, fields } = await ask(site, "GET /page.html", { "accept-encoding": "br" });
      expect([body, fields["content-encoding"], fields["content-length"]]).toEqual([
        `coded ${i}`,
        "br",
        String(7 + String(i).length - 1),
      ]);
      tags.add(fields.etag!);
    }
    expect(tags.size).toBe(20);
    expect(figure(site, /descriptions/).entries).toBeLessThanOrEqual(21);
    await tree.remove();
  });

  test("a listing by size or time shows a write at once, and one by name a new file", async () => {
    const tree = await makeTree({ "a.txt": "1", "b.txt": "22" });
    const site = await openSite({ mounts: [{ folder: tree.root, listing: true }] });
    const past = (name: string, seconds: number): void => utimesSync(join(tree.root, name), seconds, seconds);
    const names = async (query: string): Promise<string> =>
      (await ask(site, `GET /?${query}`, { accept: "text/plain" })).body.replaceAll("\n", " ").trim();
    past("a.txt", 1_790_000_000);
    past("b.txt", 1_790_000_001);
    past("", 1_790_000_000);
    expect([
      await names("order=size"),
      await names("order=time"),
      await names("order=size&descending"),
    ]).toEqual(["a.txt b.txt", "a.txt b.txt", "b.txt a.txt"]);
    writeFileSync(join(tree.root, "a.txt"), "4444");
    expect([
      await names("order=size"),
      await names("order=time"),
      await names("order=size&descending"),
    ]).toEqual(["b.txt a.txt", "b.txt a.txt", "a.txt b.txt"]);
    mkdirSync(join(tree.root, "sub"));
    expect(await names("order=name")).toBe("sub/ a.txt b.txt");
    await tree.remove();
  });
});
