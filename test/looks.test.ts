import {
  chmodSync,
  chownSync,
  mkdirSync,
  openSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from "node:fs";
import { join } from "node:path";
import { setImmediate as nextTurn } from "node:timers/promises";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { Memory } from "../src/core/memory/memory.js";
import type { FileSource, Found, Look } from "../src/core/source.js";
import { folderSource } from "../src/sources/folder.js";
import { FolderFile } from "../src/sources/folder-file.js";
import { makeTree, type Tree } from "./helpers.js";

// What a folder remembers of a name, and how it is told that the name still means that.
let tree: Tree;
let memory: Memory;
let source: FileSource;
const at = (path: string): string => join(tree.root, path);
const openDescriptors = (): number => readdirSync("/proc/self/fd").length;

beforeEach(async () => {
  tree = await makeTree({
    "site/a.txt": "aaaa",
    "site/b.txt": "bbbb",
    "site/sub/a.txt": "aaaa",
    "site/sub/deep/c.txt": "cc",
    "site/link.txt": { link: "sub/a.txt" },
    "site/link": { link: "sub" },
    current: { link: "site" },
  });
  memory = new Memory();
  source = folderSource(at("site"), { local: true, memory });
});
afterEach(() => tree.remove());

async function find(path: string, from = source): Promise<Found> {
  const found = await from.open(path);
  if (found.kind === "file") found.file.close();
  if (found.kind === "directory") found.directory.close();
  return found;
}

async function lookAt(path: string, from = source): Promise<Look> {
  const look = from.look!(path, await find(path, from));
  await nextTurn();
  return look!;
}

const put = (path: string, text: string): void => writeFileSync(at(path), text);
const move = (from: string, to: string): void => renameSync(at(from), at(to));
const isRoot = process.getuid?.() === 0;

describe("a look at a name", () => {
  test.each<[string, string, () => void, boolean]>([
    ["a file that stays", "a.txt", () => put("site/new.txt", "n"), true],
    ["a file with other bytes", "a.txt", () => put("site/a.txt", "AAAA"), false],
    ["a file that is longer", "a.txt", () => put("site/a.txt", "aaaaa"), false],
    ["a file with another time", "a.txt", () => utimesSync(at("site/a.txt"), 1, 1), false],
    ["a file that others may read", "a.txt", () => chmodSync(at("site/a.txt"), 0o666), false],
    ["a file that is gone", "a.txt", () => rmSync(at("site/a.txt")), false],
    ["a file that another one took the place of", "a.txt", () => move("site/b.txt", "site/a.txt"), false],
    [
      "a file that a link to it took the place of",
      "a.txt",
      () => void [move("site/a.txt", "site/c.txt"), symlinkSync("c.txt", at("site/a.txt"))],
      false,
    ],
    [
      "a file that a folder took the place of",
      "a.txt",
      () => void [rmSync(at("site/a.txt")), mkdirSync(at("site/a.txt"))],
      false,
    ],
    [
      "a file below a folder that was moved, with a link in its place",
      "sub/a.txt",
      () => void [move("site/sub", "elsewhere"), symlinkSync("../elsewhere", at("site/sub"))],
      false,
    ],
    ["a file below a folder that is gone", "sub/a.txt", () => move("site/sub", "elsewhere"), false],
    ["a file behind a link", "link.txt", () => put("site/new.txt", "n"), true],
    [
      "a file behind a link that leads elsewhere now",
      "link.txt",
      () => void [rmSync(at("site/link.txt")), symlinkSync("b.txt", at("site/link.txt"))],
      false,
    ],
    [
      "a file below a link that leads elsewhere now",
      "link/a.txt",
      () => void [rmSync(at("site/link")), symlinkSync(".", at("site/link"))],
      false,
    ],
    ["a folder, with another file in it", "sub", () => put("site/sub/new.txt", "n"), true],
    ["the folder itself, with another file in it", "", () => put("site/new.txt", "n"), true],
    ["a folder that is gone", "sub", () => move("site/sub", "elsewhere"), false],
    [
      "a folder that another one took the place of",
      "sub",
      () => void [move("site/sub", "elsewhere"), mkdirSync(at("site/sub"))],
      false,
    ],
    [
      "a folder that a file took the place of",
      "sub",
      () => void [move("site/sub", "elsewhere"), put("site/sub", "f")],
      false,
    ],
    ["a folder that others may not enter", "sub", () => chmodSync(at("site/sub"), 0o700), false],
    [
      "a folder of another owner",
      "sub",
      () =>
        isRoot ? chownSync(at("site/sub"), 7, statSync(at("site/sub")).gid) : move("site/sub", "elsewhere"),
      false,
    ],
    [
      "a folder of another group",
      "sub",
      () => (isRoot ? chownSync(at("site/sub"), 0, 7) : move("site/sub", "elsewhere")),
      false,
    ],
    ["nothing", "none.txt", () => put("site/new.txt", "n"), true],
    ["nothing, where something is now", "none.txt", () => put("site/none.txt", "n"), false],
    ["nothing below a file", "a.txt/x", () => put("site/new.txt", "n"), true],
    [
      "nothing below a folder that is a file now",
      "sub/none.txt",
      () => void [move("site/sub", "elsewhere"), put("site/sub", "f")],
      true,
    ],
    [
      "nothing, where a link in a circle is now",
      "none.txt",
      () => symlinkSync("none.txt", at("site/none.txt")),
      false,
    ],
  ])("%s", async (_what, path, change, holds) => {
    const look = await lookAt(path);
    const before = look.holds();
    await nextTurn();
    change();
    const after = look.holds();
    expect([before, after]).toEqual([true, holds]);
    // What was found out in a turn is true to its end.
    if (path === "none.txt" && !holds) {
      rmSync(at("site/none.txt"));
      expect(look.holds()).toBe(false);
      await nextTurn();
      expect(look.holds()).toBe(true);
    }
  });

  test("a folder that a link led to: only while it still leads there", async () => {
    const linked = folderSource(at("site"), { local: true, link: at("current") });
    const looks = [await lookAt("a.txt", linked), await lookAt("none.txt", linked), await lookAt("", linked)];
    expect(looks.map((look) => look.holds())).toEqual([true, true, true]);
    await nextTurn();
    rmSync(at("current"));
    expect(looks.map((look) => look.holds())).toEqual([false, false, false]);
    await nextTurn();
    symlinkSync("site/sub", at("current"));
    expect(looks.map((look) => look.holds())).toEqual([false, false, false]);
  });

  test("tells when it last changed: a file by the later of its times, all else never", async () => {
    utimesSync(at("site/a.txt"), 1, 4_000_000_000);
    const { ctimeMs } = statSync(at("site/b.txt"));
    const linked = folderSource(at("site"), { local: true, link: at("current") });
    for (const from of [source, linked]) {
      const [a, b, ...others] = await Promise.all(
        ["a.txt", "b.txt", "sub", "none.txt"].map(async (path) => (await lookAt(path, from)).changedMs),
      );
      expect([a, b, others]).toEqual([
        4_000_000_000_000,
        Math.floor(ctimeMs),
        [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY],
      ]);
    }
  });

  test("there is none for what cannot be told so, or is not what was found last", async () => {
    symlinkSync("loop", at("site/loop"));
    const older = await find("a.txt");
    const folder = await find("sub");
    put("site/a.txt", "aaaaaa");
    await find("a.txt");
    const kinds = [
      await find("loop"),
      { kind: "special" },
      { kind: "unsettled" },
      { kind: "missing", because: "link-leads-outside" },
    ] as Found[];
    expect([
      source.look!("a.txt", older),
      source.look!("b.txt", older),
      source.look!("sub/deep", folder),
      ...kinds.map((found) => source.look!("a.txt", found)),
    ]).toEqual(Array(7).fill(undefined));
    expect([folderSource(at("site")).look!("none.txt", await find("none.txt"))]).toEqual([undefined]);
  });

  test("files of one folder share the look at their place; of a link each has its own", async () => {
    const places = (): number => memory.metrics().find(({ name }) => name === "places of folders")!.entries;
    for (const path of ["sub/a.txt", "sub/deep", "sub/deep/c.txt", "sub/a.txt"]) await lookAt(path);
    expect(places()).toBe(2);
    await lookAt("link.txt");
    await lookAt("");
    expect(places()).toBe(4);
    expect(await lookAt("sub/a.txt")).toBe(await lookAt("sub/a.txt"));
  });
});

describe("a file that is known", () => {
  const metadataOf = async (path: string): Promise<object> => {
    const found = await find(path);
    return found.kind === "file" ? found.file.metadata : found;
  };

  test("keeps what is known of its bytes while only its place changes, and is looked at anew", async () => {
    const first = await metadataOf("link/a.txt");
    const before = await lookAt("link/a.txt");
    move("site/sub", "site/moved");
    rmSync(at("site/link"));
    symlinkSync("moved", at("site/link"));
    expect(await metadataOf("link/a.txt")).toBe(first);
    const after = await lookAt("link/a.txt");
    expect([before.holds(), after.holds()]).toEqual([false, true]);
    put("site/moved/a.txt", "xxxxx");
    expect(await metadataOf("link/a.txt")).not.toBe(first);
  });

  test("is opened in place when it was opened a moment ago, and aside otherwise", async () => {
    const isInPlace = (path: string, from = source): boolean => {
      const opened = from.open(path);
      void Promise.resolve(opened).then((found) => found.kind === "file" && found.file.close());
      return !(opened instanceof Promise);
    };
    const remote = folderSource(at("site"));
    await find("a.txt");
    await find("a.txt", remote);
    expect([isInPlace("a.txt"), isInPlace("b.txt"), isInPlace("a.txt", remote)]).toEqual([
      true,
      false,
      false,
    ]);
    await nextTurn();
    const late = performance.timeOrigin + performance.now() + 1500;
    const { now } = Date;
    Date.now = () => late;
    try {
      expect(isInPlace("a.txt")).toBe(false);
    } finally {
      Date.now = now;
    }
    await find("b.txt");
  });

  test("is opened at once for who reads very many: only a plain file at its own place", async () => {
    const before = openDescriptors();
    const told = ["a.txt", "sub", "link.txt", "link/a.txt", "none.txt"].map((path) => {
      const found = source.openNow!(path);
      if (found?.kind !== "file") return found;
      const text = Buffer.from((found.file as FolderFile).readNow(Buffer.alloc(9))).toString();
      found.file.close();
      return [text, found.file.metadata.sizeBytes];
    });
    expect(told).toEqual([["aaaa", 4], undefined, undefined, undefined, undefined]);
    expect([
      folderSource(at("site")).openNow!("a.txt"),
      folderSource(at("site"), { local: true, platform: "win32" }).openNow!("a.txt"),
    ]).toEqual([undefined, undefined]);
    expect(openDescriptors()).toBe(before);
  });

  test("is unchanged while its size and both times are as they were, and while it is open", async () => {
    const found = (await source.open("a.txt")) as Extract<Found, { kind: "file" }>;
    const { metadata } = found.file;
    const isUnchanged = (change: object): boolean => {
      const file = new FolderFile(
        openSync(at("site/a.txt"), "r"),
        { ...metadata, ...change },
        { lastReadMs: 0 },
      );
      const outcome = file.isUnchanged();
      file.close();
      return outcome;
    };
    expect([{}, { sizeBytes: 5 }, { modifiedNs: 1n }, { changedNs: 1n }].map(isUnchanged)).toEqual([
      true,
      false,
      false,
      false,
    ]);
    expect(found.file.isUnchanged!()).toBe(true);
    found.file.close();
    expect(found.file.isUnchanged!()).toBe(false);
  });

  test("is read in place when it was read to its end a moment ago: nothing is under way when it is closed", async () => {
    const before = openDescriptors();
    const closesAtOnce: boolean[] = [];
    const opened = async (): Promise<FolderFile> =>
      ((await source.open("a.txt")) as Extract<Found, { kind: "file" }>).file as FolderFile;
    for (const length of [2, 4, 4]) {
      const file = await opened();
      const reading = file.read(0, length);
      file.close();
      closesAtOnce.push(openDescriptors() === before);
      await reading;
    }
    expect([closesAtOnce, openDescriptors()]).toEqual([[false, false, true], before]);
  });
});
