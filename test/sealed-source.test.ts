import { describe, expect, test } from "vitest";
import type { FileSource, Found, OpenedDirectory, OpenedFile, SourceEntry } from "../src/core/source.js";
import { digestOf, LiveBytes } from "../src/sources/sealed/live-bytes.js";
import { digestPieces } from "../src/sources/sealed/pieces.js";
import { SealedEntry } from "../src/sources/sealed/sealed-entry.js";
import { SealedFolder } from "../src/sources/sealed/sealed-folder.js";

// A folder as it was sealed, over a source that is made to tell what it likes.
const MEBIBYTE = 1024 * 1024;
const SMALL = Buffer.from("small text");
const LIMIT = Buffer.alloc(MEBIBYTE, "l");
const LARGE = Buffer.alloc(MEBIBYTE + 1, "g");

interface Told {
  opened: number;
  closed: number;
  digests: number;
}

interface Live {
  readonly bytes?: Uint8Array;
  readonly found?: Found;
  readonly fails?: "read" | "digest";
  readonly isUnchanged?: () => boolean;
  readonly changedMs?: number;
  readonly metadata?: object;
}

/** A folder with one sealed file, `sub/file`, whose place on disk holds something that is made to order. */
function seal(
  sealed: Uint8Array,
  live: Live,
  pieces?: Uint8Array,
): { folder: SealedFolder; bytes: LiveBytes; told: Told } {
  const told = { opened: 0, closed: 0, digests: 0 };
  const { bytes = sealed, changedMs = 0 } = live;
  const entry = new SealedEntry({
    sizeBytes: sealed.length,
    modifiedMs: 5000,
    digest: digestOf(sealed),
    pieces,
  });
  const metadata = { sizeBytes: bytes.length, modifiedNs: 0n, changedNs: BigInt(changedMs) * 1_000_000n };
  const close = (): void => void told.closed++;
  const file: OpenedFile = {
    metadata,
    async read(offset, length, into) {
      if (live.fails === "read") throw new Error("the device failed");
      const piece = bytes.subarray(offset, offset + length);
      into?.set(piece);
      return into?.subarray(0, piece.length) ?? piece;
    },
    async digest() {
      told.digests++;
      if (live.fails === "digest") throw new Error("the device failed");
      return digestOf(bytes);
    },
    isUnchanged: live.isUnchanged ?? (() => true),
    close,
  };
  const source: FileSource = {
    name: "live",
    async open() {
      told.opened++;
      if (live.found?.kind === "directory") return { ...live.found, directory: { close } as OpenedDirectory };
      return live.found ?? { kind: "file", file, realPath: undefined };
    },
    diagnose: async (path) => ({ text: `asked for ${path}` }),
  };
  const kept = new LiveBytes(source);
  const folder = new SealedFolder(source.name, kept);
  folder.add("sub/file", entry);
  return { folder, bytes: kept, told };
}

describe("what is on disk in the place of a sealed file", () => {
  const failed: Found = { kind: "failed", cause: "EIO", busy: false };
  const forbidden: Found = { kind: "forbidden", cause: "EACCES" };
  const unsettled: Found = { kind: "unsettled" };
  const altered: Found = { kind: "altered" };
  test.each<[string, Live, Found | string, Told]>([
    ["the file", {}, "file", { opened: 1, closed: 1, digests: 1 }],
    [
      "other bytes of the same length",
      { bytes: Buffer.alloc(MEBIBYTE + 1, "x") },
      altered,
      { opened: 1, closed: 1, digests: 1 },
    ],
    ["a shorter file", { bytes: SMALL }, altered, { opened: 1, closed: 1, digests: 0 }],
    [
      "a file that changes meanwhile",
      { isUnchanged: () => false },
      altered,
      { opened: 1, closed: 1, digests: 1 },
    ],
    [
      "a file that cannot be read",
      { fails: "digest" },
      { ...failed, cause: "the device failed" },
      { opened: 1, closed: 1, digests: 1 },
    ],
    [
      "a file that is cut while it is read",
      { fails: "digest", isUnchanged: () => false },
      altered,
      { opened: 1, closed: 1, digests: 1 },
    ],
    [
      "nothing",
      { found: { kind: "missing", because: "no-such-file" } },
      altered,
      { opened: 1, closed: 0, digests: 0 },
    ],
    ["a folder", { found: { kind: "directory" } as Found }, altered, { opened: 1, closed: 1, digests: 0 }],
    ["a pipe", { found: { kind: "special" } }, altered, { opened: 1, closed: 0, digests: 0 }],
    ["what fails", { found: failed }, failed, { opened: 1, closed: 0, digests: 0 }],
    ["what is forbidden", { found: forbidden }, forbidden, { opened: 1, closed: 0, digests: 0 }],
    [
      "what is replaced again and again",
      { found: unsettled },
      unsettled,
      { opened: 1, closed: 0, digests: 0 },
    ],
  ])("%s", async (_what, live, expected, told) => {
    for (const sealed of [SMALL, LARGE]) {
      const changed =
        live.bytes === undefined
          ? live
          : {
              ...live,
              bytes: live.bytes === SMALL ? sealed.subarray(1) : live.bytes.subarray(0, sealed.length),
            };
      const isSmall = sealed === SMALL;
      // The bytes of a small file are compared as they are read, so nothing else can fail or change.
      if (isSmall && (live.isUnchanged !== undefined || live.fails !== undefined)) continue;
      const { folder, told: counted } = seal(sealed, changed);
      const found = await folder.open("sub/file");
      if (found.kind === "file") found.file.close();
      expect(typeof expected === "string" ? found.kind : found).toEqual(expected);
      expect(counted).toEqual(isSmall ? { ...told, digests: 0 } : told);
    }
  });

  test("a small file that cannot be read has failed, and is closed", async () => {
    const { folder, told } = seal(SMALL, { fails: "read" });
    expect([await folder.open("sub/file"), told.closed]).toEqual([
      { kind: "failed", cause: "the device failed", busy: false },
      1,
    ]);
    // It is tried again.
    expect([(await folder.open("sub/file")).kind, told.opened, told.closed]).toEqual(["failed", 2, 2]);
  });
});

test("a file of up to a mebibyte is read once, and answered from memory, looked at never; a larger one each time", async () => {
  for (const [sealed, opened] of [[SMALL, 1] as const, [LIMIT, 1] as const, [LARGE, 3] as const]) {
    const { folder, told } = seal(sealed, {});
    const found = await Promise.all([folder.open("sub/file"), folder.open("sub/file")]);
    found.push(await folder.open("sub/file"));
    for (const one of found) {
      if (one.kind !== "file") throw new Error(one.kind);
      const { file } = one;
      expect([
        file.metadata.sizeBytes,
        file.metadata.modifiedNs,
        await file.digest(),
        Buffer.from(await file.read(1, 4)).toString(),
      ]).toEqual([sealed.length, 5_000_000_000n, digestOf(sealed), sealed.subarray(1, 5).toString()]);
      expect([file.bytes !== undefined, folder.look("sub/file", one)?.holds()]).toEqual(
        sealed === LARGE ? [false, undefined] : [true, true],
      );
      file.close();
    }
    expect([told.opened, told.closed]).toEqual([opened, opened]);
  }
});

test("the bytes of a larger one are compared once, but for a file that changed a moment ago", async () => {
  for (const [changedMs, digests] of [
    [0, 1] as const,
    [Date.now() - 5000, 1] as const,
    [Date.now(), 3] as const,
  ]) {
    const { folder, told } = seal(LARGE, { changedMs });
    const both = await Promise.all([folder.open("sub/file"), folder.open("sub/file")]);
    expect([both[0]!.kind, told.digests]).toEqual(["file", 1]);
    await folder.open("sub/file");
    await folder.open("sub/file");
    expect(told.digests).toBe(digests);
  }
});

test("a larger file that changes after it was opened gives no more bytes", async () => {
  let isUnchanged = true;
  const { folder } = seal(LARGE, { isUnchanged: () => isUnchanged });
  const found = await folder.open("sub/file");
  if (found.kind !== "file") throw new Error(found.kind);
  expect((await found.file.read(0, 10)).length).toBe(10);
  isUnchanged = false;
  await expect(found.file.read(0, 10)).rejects.toThrow("The file was changed after it was sealed.");
});

describe("a file with digests of its pieces", () => {
  const LONG = Buffer.concat([Buffer.alloc(MEBIBYTE, "a"), Buffer.alloc(MEBIBYTE, "b"), Buffer.from("end")]);
  const changed = (at: number): Buffer => {
    const bytes = Buffer.from(LONG);
    bytes[at]!++;
    return bytes;
  };
  const makePieces = async (): Promise<Uint8Array> => {
    const read = async (offset: number, length: number) => LONG.subarray(offset, offset + length);
    const { digest, pieces } = await digestPieces({
      metadata: { sizeBytes: LONG.length, modifiedNs: 0n },
      read,
      digest: async () => "",
      close() {},
    });
    expect([digest, pieces.length]).toEqual([digestOf(LONG), 3 * 32]);
    return pieces;
  };

  test.each<[string, Live, readonly [offset: number, length: number], string]>([
    ["its beginning", {}, [0, 5], "aaaaa"],
    ["over the end of a piece", {}, [MEBIBYTE - 2, 4], "aabb"],
    ["the end", {}, [2 * MEBIBYTE + 1, 50], "nd"],
    ["behind the end", {}, [LONG.length, 5], ""],
    ["all", {}, [0, LONG.length], LONG.toString()],
    ["a changed first piece", { bytes: changed(7) }, [0, 5], "altered"],
    ["a changed piece that is not wanted", { bytes: changed(2 * MEBIBYTE) }, [0, 5], "aaaaa"],
    [
      "a changed piece",
      { bytes: changed(MEBIBYTE) },
      [MEBIBYTE, 5],
      "The file was changed after it was sealed.",
    ],
    ["another length", { bytes: LONG.subarray(1) }, [0, 5], "altered"],
    ["a failing device", { fails: "read" }, [0, 5], "failed"],
  ])("%s", async (_what, live, [offset, length], wanted) => {
    const { folder, told } = seal(LONG, live, await makePieces());
    const found = await folder.open("sub/file");
    const got =
      found.kind !== "file"
        ? found.kind
        : await found.file
            .read(offset, length)
            .then((bytes) => Buffer.from(bytes).toString())
            .catch(({ message }) => message);
    if (found.kind === "file") found.file.close();
    expect([got === wanted, told]).toEqual([true, { opened: 1, closed: 1, digests: 0 }]);
  });

  test("is compared once while it is unchanged", async () => {
    const { folder } = seal(LONG, { changedMs: Date.now() - 10_000 }, await makePieces());
    const read = async (): Promise<string> => {
      const found = await folder.open("sub/file");
      if (found.kind !== "file") throw new Error(found.kind);
      for (let offset = 0; offset < LONG.length; offset += 100_000) await found.file.read(offset, 100_000);
      found.file.close();
      return found.file.constructor.name;
    };
    expect([await read(), await read()]).toEqual(["PiecedFile", "FileOnDisk"]);
  });
});

test("up to a bound bytes are kept, and no more; each file has its own", async () => {
  const { folder, bytes } = seal(SMALL, {});
  const taken = Array.from({ length: 256 }, (_, i) => bytes.take(i === 255 ? MEBIBYTE - 1 : MEBIBYTE));
  expect([
    taken.every((one) => one !== undefined),
    bytes.take(2),
    bytes.take(1)?.bytes.length,
    bytes.take(1),
    seal(SMALL, {}).bytes.take(MEBIBYTE + 1),
  ]).toEqual([true, undefined, 1, undefined, undefined]);
  const [first, second] = taken.map((one) => one!.bytes);
  first!.fill("1");
  second!.fill("2");
  expect([
    first!.at(-1),
    second![0],
    new Set(taken.map((one) => `${one!.place.block} ${one!.place.offset}`)).size,
  ]).toEqual([49, 50, 256]);
  expect(new Set(taken.map((one) => one!.place.block)).size).toBe(32);
  // What is beyond it is sent from disk.
  const found = await folder.open("sub/file");
  expect(
    found.kind === "file" && [found.file.bytes, Buffer.from(await found.file.read(0, 20)).toString()],
  ).toEqual([undefined, "small text"]);
});

test("its folders follow from its files", async () => {
  const { folder } = seal(SMALL, {});
  for (const path of ["a.txt", "sub/deep/b.txt", "sub/deep/c.txt"])
    folder.add(path, new SealedEntry({ sizeBytes: 7, modifiedMs: 1000, digest: "x" }));
  const list = async (path: string): Promise<unknown> => {
    const found = await folder.open(path);
    if (found.kind !== "directory") return found;
    const { directory } = found;
    const names = (await directory.list()) as readonly SourceEntry[];
    expect([
      folder.look(path, found)?.holds(),
      folder.look(path, found)?.changedMs,
      directory.version,
      await directory.isInPlace(),
      await directory.stat("none"),
    ]).toEqual([true, Number.NEGATIVE_INFINITY, "sealed", true, undefined]);
    return Promise.all(
      names.map(async ({ name }) =>
        [name, (await directory.stat(name))!.kind, (await directory.stat(name))!.sizeBytes].join(" "),
      ),
    );
  };
  expect([await list(""), await list("sub"), await list("sub/deep")]).toEqual([
    ["sub directory 0", "a.txt file 7"],
    ["file file 10", "deep directory 0"],
    ["b.txt file 7", "c.txt file 7"],
  ]);
  const missing = await folder.open("sub/de");
  expect([
    missing,
    folder.look("sub/de", missing)?.holds(),
    folder.look("x", { kind: "altered" }),
    await folder.diagnose("x"),
    folder.name,
  ]).toEqual([
    { kind: "missing", because: "no-such-file" },
    true,
    undefined,
    { text: "asked for x" },
    "live",
  ]);
});
