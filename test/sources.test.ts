import {
  chmodSync,
  chownSync,
  closeSync,
  fstatSync,
  linkSync,
  mkdirSync,
  openSync,
  readdirSync,
  renameSync,
  rmdirSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { Memory } from "../src/core/memory/memory.js";
import { lookAt } from "../src/core/resolve/look.js";
import { type FileSource, memorySource, type SiteConfig, type SourceEntry } from "../src/index.js";
import { makeAlgorithms } from "../src/sources/algorithms.js";
import { CommonTimes } from "../src/sources/common-times.js";
import { diagnosePath } from "../src/sources/diagnose.js";
import { folderSource } from "../src/sources/folder.js";
import { FolderFile } from "../src/sources/folder-file.js";
import { isSame } from "../src/sources/known-path.js";
import { locate } from "../src/sources/links.js";
import { openFolder, toFolder } from "../src/sources/open-folder.js";
import { readTextFile } from "../src/sources/read-text.js";
import { openSite } from "./counting-source.js";
import { ask, asNobody, canBeNobody, makeTree, onPlatform, readDirectory } from "./helpers.js";

let tree: Awaited<ReturnType<typeof makeTree>>;
const at = (path: string): string => join(tree.root, path);
const openDescriptors = (): number => readdirSync("/proc/self/fd").length;
beforeAll(async () => {
  tree = await makeTree({
    "plain.txt": "plain text",
    "empty.txt": "",
    "large.bin": "0123456789".repeat(40_000),
    "sub/a.txt": "a",
    "sub/to-a": { link: "a.txt" },
    "sub/deep/b.txt": "b",
    "Geheim/Dräfte.txt": "secret",
    ".env": "env",
    link: { link: "plain.txt" },
    "link-sub": { link: "sub" },
    "link-out": { link: "/etc/hostname" },
    "link-up": { link: "../" },
    "link-lost": { link: "nowhere" },
    "link-secret": { link: "Geheim" },
    "link-env": { link: ".env" },
  });
});
afterAll(() => tree.remove());

describe("an open file of a folder", () => {
  const open = (path: string): FolderFile => {
    const { size, mtimeMs } = statSync(at(path));
    return new FolderFile(
      openSync(at(path), "r"),
      { sizeBytes: size, modifiedNs: BigInt(Math.round(mtimeMs)) * 1_000_000n },
      { lastReadMs: Number.NEGATIVE_INFINITY },
    );
  };
  const text = (bytes: Uint8Array): string => Buffer.from(bytes).toString();

  test("gives the bytes that are asked for, fewer at its end, the first time and from memory", async () => {
    const file = open("plain.txt");
    for (const _ of ["aside", "in place"]) {
      const read = await Promise.all([
        file.read(0, 5),
        file.read(6, 4),
        file.read(6, 100),
        file.read(100, 5),
        file.read(2, 0),
      ]);
      expect(read.map(text)).toEqual(["plain", "text", "text", "", ""]);
    }
    file.close();
  });

  test("fills a buffer that is lent, and no more of it; small reads do not share their bytes", async () => {
    const file = open("large.bin");
    const lent = Buffer.alloc(300_000, "x");
    const read = await file.read(5, 200_000, lent);
    expect([
      read.length,
      read.buffer === lent.buffer,
      text(read.subarray(0, 7)),
      text(lent.subarray(199_999, 200_003)),
    ]).toEqual([200_000, true, "5678901", "4xxx"]);
    const pieces = await Promise.all(Array.from({ length: 200 }, (_, i) => file.read(i, 65_536)));
    expect(
      pieces.every(
        (piece, i) =>
          piece.length === 65_536 && piece[0] === 48 + (i % 10) && piece[65_535] === 48 + ((i + 65_535) % 10),
      ),
    ).toBe(true);
    const odd = await Promise.all([3, 13, 1, 8].map((length) => file.read(0, length)));
    expect(odd.map(text)).toEqual(["012", "0123456789012", "0", "01234567"]);
    file.close();
  });

  test("is closed once, after a read under way; then it is not read", async () => {
    const before = openDescriptors();
    const file = open("large.bin");
    const reading = file.read(0, 400_000);
    file.close();
    file.close();
    expect(openDescriptors()).toBe(before + 1);
    expect((await reading).length).toBeGreaterThan(0);
    expect(openDescriptors()).toBe(before);
    await expect(file.read(0, 1)).rejects.toThrow("closed before it was read");
  });

  test("a lent buffer that is longer than the file is handed back as long as what was read; so is one that is filled from memory", async () => {
    const file = open("plain.txt");
    const lent = Buffer.alloc(64);
    for (const _ of ["aside", "in place"])
      expect([
        (await file.read(0, 64, lent)).length,
        (await file.read(0, 10, lent.subarray(0, 10))).length,
      ]).toEqual([10, 10]);
    file.close();
    await expect(file.read(0, 1)).rejects.toThrow("The file was closed before it was read.");
  });

  test("a read that the device refuses rejects, and gives its descriptor back", async () => {
    const before = openDescriptors();
    const file = new FolderFile(
      openSync(at("sub"), "r"),
      { sizeBytes: 10, modifiedNs: 0n },
      { lastReadMs: Number.NEGATIVE_INFINITY },
    );
    await expect(file.read(0, 10)).rejects.toThrow("EISDIR");
    await expect(file.digest()).rejects.toThrow("EISDIR");
    file.close();
    expect(openDescriptors()).toBe(before);
  });
});

test.runIf(process.platform === "linux")(
  "the path of a descriptor whose name is gone, or only looks so",
  async () => {
    const own = await makeTree({
      "secret.txt": "old",
      "next.txt": "new",
      "plain (deleted)": "named so",
      alias: { link: "secret.txt" },
    });
    const at = (path: string): string => join(own.root, path);
    const open = (path: string) => {
      const full = at(path);
      const descriptor = openSync(full, "r");
      return { descriptor, opened: { path, full, stats: fstatSync(descriptor, { bigint: true }) } };
    };
    const [secret, named] = [open("alias"), open("plain (deleted)")];
    // Another link keeps the inode, so that it has one left when its name is given to another.
    linkSync(join(own.root, "secret.txt"), join(own.root, "kept.txt"));
    renameSync(join(own.root, "next.txt"), join(own.root, "secret.txt"));
    expect([
      await locate(own.root, secret.opened, "inside", secret.descriptor),
      await locate(own.root, named.opened, "none", named.descriptor),
    ]).toEqual([
      { real: at("secret.txt"), realPath: "secret.txt", refused: undefined },
      { real: at("plain (deleted)"), realPath: undefined, refused: undefined },
    ]);
    // The same where links are not followed: a plain file whose name was given to another is no link.
    const plain = open("kept.txt");
    writeFileSync(join(own.root, "other.txt"), "other");
    linkSync(join(own.root, "kept.txt"), join(own.root, "more.txt"));
    renameSync(join(own.root, "other.txt"), join(own.root, "kept.txt"));
    expect(await locate(own.root, plain.opened, "none", plain.descriptor)).toEqual({
      real: at("kept.txt"),
      realPath: undefined,
      refused: undefined,
    });
    // Its name is gone, and another file is called as the note reads.
    writeFileSync(join(own.root, "gone.txt"), "gone");
    const gone = open("gone.txt");
    rmSync(join(own.root, "gone.txt"));
    writeFileSync(join(own.root, "gone.txt (deleted)"), "another");
    expect(await locate(own.root, gone.opened, "none", gone.descriptor)).toMatchObject({
      real: at("gone.txt"),
    });
    for (const { descriptor } of [secret, named, plain, gone]) closeSync(descriptor);
    await own.remove();
  },
);

// As on a file system that ignores case and Unicode form: another name was asked for than the one that the file has.
test.each<[string, string, string, string | undefined]>([
  ["another case", "Plain.txt", "plain.txt", "name-differs"],
  ["another case of a folder", "Sub/a.txt", "sub/a.txt", "name-differs"],
  ["another Unicode form", "Dra\u0308fte.txt", "Dr\u00e4fte.txt", "name-differs"],
  ["a link of that name", "LINK.txt", "link.txt", undefined],
  ["a folder's link of that name", "LINK/a.txt", "link/a.txt", undefined],
  ["the same name", "plain.txt", "plain.txt", undefined],
])(
  "a name that is not the file's own is refused, unless it is a link: %s",
  async (_what, asked, has, refused) => {
    const own = await makeTree({
      [has]: "a",
      "LINK.txt": { link: "link.txt" },
      LINK: { link: "link" },
      ...(asked.startsWith("LINK") || asked === has ? {} : { [asked]: "b" }),
    });
    const full = join(own.root, has);
    const found = await locate(
      own.root,
      { path: asked, full, stats: statSync(full, { bigint: true }) },
      "inside",
    );
    expect(found).toEqual({ real: full, realPath: asked === has ? undefined : has, refused });
    if (refused === undefined && asked !== has)
      expect(
        (await locate(own.root, { path: asked, full, stats: statSync(full, { bigint: true }) }, "none"))!
          .refused,
      ).toBe("link-not-followed");
    await own.remove();
  },
);

test("a path is known for as long as inode, device, both times and size are the same", () => {
  const entry = { inode: 1n, device: 2n, metadata: { sizeBytes: 4, modifiedNs: 5n, changedNs: 3n } };
  const stats = { ino: 1n, dev: 2n, ctimeNs: 3n, size: 4n, mtimeNs: 5n };
  expect(isSame(entry, stats)).toBe(true);
  for (const key of Object.keys(stats))
    expect([key, isSame(entry, { ...stats, [key]: 9n })]).toEqual([key, false]);
});

describe("what a folder tells of a name", () => {
  test("its entries, by what they are; of a link nothing yet", async () => {
    const list = (root: string, path = "") =>
      readDirectory(folderSource(root), path, async (own) => (await own.list()) as readonly SourceEntry[]);
    const entries = (await list(tree.root))!.map(({ name, kind }) => `${name} ${kind}`).sort();
    expect(entries).toEqual(
      [
        ".env file",
        "Geheim directory",
        "empty.txt file",
        "large.bin file",
        "link undefined",
        "link-env undefined",
        "link-lost undefined",
        "link-out undefined",
        "link-secret undefined",
        "link-sub undefined",
        "link-up undefined",
        "plain.txt file",
        "sub directory",
      ].sort(),
    );
    expect([await list(tree.root, "nope"), await list(tree.root, "plain.txt")]).toEqual([
      undefined,
      undefined,
    ]);
    // Closed twice, it closes nothing else.
    const twice = await folderSource(tree.root).open("sub");
    if (twice.kind === "directory") for (const _ of [1, 2]) twice.directory.close();
    expect(fstatSync(1).size).toBeGreaterThanOrEqual(0);
    // Where a descriptor has no path of its own, a folder is listed by its name, which may be gone.
    mkdirSync(at("short"));
    const gone = await onPlatform("darwin", () =>
      readDirectory(folderSource(tree.root), "short", (own) => {
        rmdirSync(at("short"));
        return own.list();
      }),
    );
    expect(gone).toEqual({ kind: "failed", cause: "ENOENT", busy: false });
    const many = await makeTree(Object.fromEntries(Array.from({ length: 2500 }, (_, i) => [`n${i}`, ""])));
    expect(new Set((await list(many.root))!.map(({ name }) => name)).size).toBe(2500);
    // Of a large one no more portions are read than are needed.
    expect(
      await readDirectory(folderSource(many.root), "", (own) =>
        Promise.all(
          [10, 1024, 1025].map(async (atMost) => ((await own.list(atMost)) as readonly SourceEntry[]).length),
        ),
      ),
    ).toEqual([1024, 1024, 2048]);
    await many.remove();
  });

  test.each<[string, "inside" | "none" | "anywhere", object | undefined]>([
    ["plain.txt", "inside", { kind: "file", sizeBytes: 10 }],
    ["sub", "none", { kind: "directory" }],
    ["link", "inside", { kind: "file", sizeBytes: 10, realPath: "plain.txt" }],
    ["link", "none", undefined],
    ["link-sub", "inside", { kind: "directory", realPath: "sub" }],
    ["link-out", "inside", undefined],
    ["link-out", "anywhere", { kind: "file" }],
    ["link-up", "inside", undefined],
    ["link-lost", "anywhere", undefined],
    ["nope", "inside", undefined],
    ["sub/to-a", "inside", { kind: "file", sizeBytes: 1, realPath: "sub/a.txt" }],
    ["sub/to-a", "none", undefined],
  ])("%s, links: %s", async (path, links, expected) => {
    const before = openDescriptors();
    for (const platform of [process.platform, "darwin"] as const) {
      const [folder, name] = path.startsWith("sub/") ? ["sub", path.slice(4)] : ["", path];
      const metadata = await onPlatform(platform, () =>
        readDirectory(folderSource(tree.root, { links }), folder, (own) => own.stat(name)),
      );
      if (expected === undefined) expect(metadata).toBeUndefined();
      else expect(metadata).toMatchObject(expected);
    }
    expect(openDescriptors()).toBe(before);
  });

  test.each<NodeJS.Platform>([process.platform, "darwin"])(
    "a directory that is moved is not in place, on %s",
    async (platform) => {
      const own = await makeTree({ "site/real/a.txt": "a", "site/alias": { link: "real" } });
      const inPlace = await onPlatform(platform, async () => {
        const source = folderSource(join(own.root, "site"));
        return readDirectory(source, "alias", async (directory) => {
          const before = await directory.isInPlace();
          renameSync(join(own.root, "site/real"), join(own.root, "site/other"));
          symlinkSync("other", join(own.root, "site/real"));
          return [before, await directory.isInPlace()];
        });
      });
      expect(inPlace).toEqual([true, false]);
      await own.remove();
    },
  );

  // The first that fits decides: owner, group, others (POSIX file access permissions).
  test.each<[string, number, number, { user?: number; group?: number; groups?: number[] }, string]>([
    ["its owner", 0o600, 0o700, {}, "file directory"],
    ["its owner, who may not what all others may", 0o066, 0o077, {}, "unreadable unreadable"],
    ["a folder that may be listed and not entered", 0o400, 0o600, {}, "file unreadable"],
    ["a folder that may be entered and not listed", 0o200, 0o300, {}, "unreadable unreadable"],
    ["the process's group", 0o640, 0o750, { user: 1 }, "file directory"],
    ["another group of the process", 0o640, 0o750, { user: 1, group: 1 }, "file directory"],
    ["the group, which may not what others may", 0o604, 0o705, { user: 1 }, "unreadable unreadable"],
    ["a stranger", 0o644, 0o755, { user: 1, group: 1, groups: [1] }, "file directory"],
    ["a stranger without rights", 0o640, 0o750, { user: 1, group: 1, groups: [1] }, "unreadable unreadable"],
    ["root", 0o000, 0o000, { user: 0 }, "file directory"],
  ])(
    "what the mode bits let this process read: %s",
    async (_who, mode, folderMode, { user, group, groups }, expected) => {
      const own = statSync(at("plain.txt"));
      const ids = process as Required<Pick<NodeJS.Process, "geteuid" | "getegid" | "getgroups">>;
      // Root may all, whatever the bits say; so the files are taken to be another's.
      const spies = [
        vi.spyOn(ids, "geteuid").mockReturnValue(user ?? (own.uid || 7)),
        vi.spyOn(ids, "getegid").mockReturnValue(group ?? own.gid),
        vi.spyOn(ids, "getgroups").mockReturnValue(groups ?? [own.gid]),
      ];
      if (own.uid === 0) chownSync(at("plain.txt"), 7, own.gid);
      if (own.uid === 0) chownSync(at("sub"), 7, own.gid);
      chmodSync(at("plain.txt"), mode);
      chmodSync(at("sub"), folderMode);
      const kinds = await readDirectory(folderSource(tree.root), "", (own) =>
        Promise.all(["plain.txt", "sub"].map(async (name) => (await own.stat(name))!.kind)),
      );
      expect(kinds!.join(" ")).toBe(expected);
      for (const spy of spies) spy.mockRestore();
      chmodSync(at("plain.txt"), 0o644);
      chmodSync(at("sub"), 0o755);
    },
  );

  test.each<[string, string | undefined | RegExp]>([
    ["plain.txt", undefined],
    ["sub/deep/b.txt", undefined],
    ["", undefined],
    ["link", "link is a symbolic link to plain.txt"],
    ["link-sub/a.txt", undefined],
    ["link-lost", "link-lost is a symbolic link to nowhere, which does not exist"],
    ["link-lost/x", "link-lost is a symbolic link to nowhere, which does not exist"],
    ["nope/x", "nope does not exist"],
    ["nope", undefined],
    ["plain.txt/x", undefined],
    ["x".repeat(300), undefined],
    [`${"x".repeat(300)}/a`, undefined],
  ])("why %j cannot be had: %s", async (path, expected) => {
    expect((await diagnosePath(tree.root, path))?.text).toEqual(expected);
  });

  test.runIf(canBeNobody)("whose permission is in the way", async () => {
    await tree.forbid("plain.txt", "sub");
    const [file, folder, root] = await asNobody(async () => [
      await diagnosePath(tree.root, "plain.txt"),
      await diagnosePath(tree.root, "sub/a.txt"),
      await diagnosePath(tree.root, ""),
    ]);
    expect([file?.denied, folder?.denied]).toEqual([
      { path: "plain.txt", right: "read" },
      { path: "sub", right: "execute" },
    ]);
    expect(file?.text).toMatch(
      /^plain\.txt: no read permission for this process \(uid \d+\); mode 000, owner \d+:\d+$/,
    );
    expect(folder?.text).toMatch(
      /^sub: no execute permission for this process \(uid \d+\); mode 000, owner \d+:\d+$/,
    );
    expect(root).toBeUndefined();
    expect((await asNobody(() => diagnosePath(at("sub"), "")))?.text).toMatch(
      /^the folder itself: no \w+ permission for this process/,
    );
    chmodSync(at("plain.txt"), 0o644);
    chmodSync(at("sub"), 0o755);
  });

  test("its version changes with its entries, and is not told while it could change unseen", async () => {
    const source = folderSource(tree.root);
    utimesSync(at("sub"), 1_790_000_000, 1_790_000_000);
    const version = () => readDirectory(source, "sub", (directory) => directory.version);
    const names = (path: string) => readDirectory(source, path, (directory) => directory.list());
    const first = await version();
    expect([first, await version()]).toEqual([
      expect.stringMatching(/^\d+-\d+-1790000000000000000-\d+$/),
      first,
    ]);
    writeFileSync(at("sub/new.txt"), "");
    expect(await version()).toBeUndefined();
    rmSync(at("sub/new.txt"));
    expect([source.name, await names(""), await names("nope")]).toEqual([
      tree.root,
      expect.objectContaining({ length: 13 }),
      undefined,
    ]);
    expect([
      await lookAt(source, "sub"),
      await lookAt(source, "plain.txt"),
      await lookAt(source, "nope"),
    ]).toEqual(["directory", "file", "absent"]);
  });

  test("a name that Windows reads as another is not opened there", async () => {
    const windows = folderSource(tree.root, { platform: "win32" });
    expect([
      await windows.open("nul"),
      (await windows.open("nope")).kind,
      await lookAt(windows, "plain.txt"),
    ]).toEqual([{ kind: "missing", because: "name-not-portable" }, "missing", "file"]);
  });

  test("a name is remembered for the very inode, and what stands in its place is found out anew", async () => {
    const memory = new Memory();
    const source = folderSource(tree.root, { memory, local: true });
    const look = async (): Promise<string> => {
      const found = await source.open("turn");
      if (found.kind !== "file") return found.kind === "missing" ? found.because : found.kind;
      const text = Buffer.from(await found.file.read(0, 100)).toString();
      found.file.close();
      return text;
    };
    const seen: string[] = [];
    for (const step of ["one", "two", "link", "out", "folder", "gone", "back"]) {
      rmSync(at("turn"), { recursive: true, force: true });
      if (step === "one" || step === "two" || step === "back") writeFileSync(at("turn"), step);
      if (step === "link") symlinkSync("plain.txt", at("turn"));
      if (step === "out") symlinkSync("/etc/hostname", at("turn"));
      if (step === "folder") mkdirSync(at("turn"));
      for (const _ of [1, 2]) seen.push(await look());
    }
    expect(seen).toEqual([
      "one",
      "one",
      "two",
      "two",
      "plain text",
      "plain text",
      "link-leads-outside",
      "link-leads-outside",
      "directory",
      "directory",
      "no-such-file",
      "no-such-file",
      "back",
      "back",
    ]);
    writeFileSync(at("other"), "beck");
    const { mtimeMs } = statSync(at("turn"));
    utimesSync(at("other"), mtimeMs / 1000, mtimeMs / 1000);
    renameSync(at("other"), at("turn"));
    expect([await look(), memory.metrics()[0]!.entries <= 2]).toEqual(["beck", true]);
    rmSync(at("turn"));
  });
});

describe("what is withheld", () => {
  test.each([
    "/Geheim/Dr%C3%A4fte.txt",
    "/Geheim/Dra%CC%88fte.txt",
    "/geheim/DR%C3%84FTE.TXT",
    "/GEHEIM/",
    "/link-secret/Dr%C3%A4fte.txt",
    "/link-secret/",
    "/link-secret",
    "/link-env",
    "/.env",
    "/Geheim/none.txt",
  ])("%s is answered as if it did not exist", async (path) => {
    const site = await openSite({
      mounts: [{ folder: tree.root, withheld: ["geheim/dräfte.*", "Geheim"], listing: true }],
    });
    const [answer, missing] = [await ask(site, `GET ${path}`), await ask(site, "GET /nope")];
    expect(answer.summary).toMatch(/^404 (?:withheld|no-such-file)$/);
    expect([answer.body, answer.fields]).toEqual([missing.body, missing.fields]);
  });
});

test("a time that most files of a folder have; one that cannot be looked at vouches for nobody", async () => {
  const own = await makeTree({
    "a/1.txt": "",
    "a/2.txt": "",
    "a/3.txt": "",
    "b/1.txt": "",
    "b/2.txt": "",
    "b/3.txt": "",
  });
  const times = new CommonTimes(
    own.root,
    new Memory().open({ name: "times", bound: 10, unit: "entries", proof: "a test" }),
  );
  const set = (path: string, seconds: number): void => utimesSync(join(own.root, path), seconds, seconds);
  for (const [i, path] of ["a/1.txt", "a/2.txt", "a/3.txt"].entries()) set(path, i === 0 ? 2000 : 1000);
  for (const [i, path] of ["b/1.txt", "b/2.txt", "b/3.txt"].entries()) set(path, 1000 + i);
  const has = (
    path: string,
    seconds: number,
    more: Partial<{ mtimeNs: bigint; ctimeNs: bigint }> = {},
  ): Promise<boolean> =>
    times.has(path, {
      mtimeNs: BigInt(seconds) * 1_000_000_000n,
      ctimeNs: 1_700_000_000_000_000_000n,
      ...more,
    });
  expect([
    await has("a/2.txt", 1000),
    await has("a/1.txt", 2000),
    await has("b/1.txt", 1000),
    await has("gone/1.txt", 1000),
  ]).toEqual([true, false, false, true]);
  // A time with parts of a second, and one that the file was given when it was written.
  expect([
    await has("a/2.txt", 1000, { mtimeNs: 1_000_000_000_001n }),
    await has("a/2.txt", 1000, { ctimeNs: 1_000_000_000_500n }),
  ]).toEqual([false, false]);
  // What is known of a folder is known for as long as it is the same.
  writeFileSync(join(own.root, "a/4.txt"), "");
  for (const path of ["a/1.txt", "a/3.txt", "a/4.txt"]) set(path, 2000);
  writeFileSync(join(own.root, "a/5.txt"), "");
  set("a/5.txt", 2000);
  expect([await has("a/2.txt", 1000), await has("a/1.txt", 2000)]).toEqual([false, true]);
  await own.remove();
});

test("codings are made with the effort that is said", async () => {
  const text = Buffer.from(
    "Larkholm Bird Observatory, the field guide. ".repeat(200) + "heron curlew tern".repeat(40),
  );
  for (const [br, gzip] of [[1, 1] as const, [5, 6] as const, [11, 9] as const]) {
    const made = makeAlgorithms({ br, gzip });
    expect([Buffer.from(await made.br!(text)), Buffer.from(await made.gzip!(text))]).toEqual([
      brotliCompressSync(text, {
        params: { [constants.BROTLI_PARAM_QUALITY]: br, [constants.BROTLI_PARAM_SIZE_HINT]: text.length },
      }),
      gzipSync(text, { level: gzip }),
    ]);
  }
});

describe("prebuilt codings", () => {
  const text = "Larkholm ".repeat(500);
  const open = async (rules: SiteConfig["mounts"][number], prebuilt: Record<string, Uint8Array>) => {
    const files = await makeTree({ "a.txt": text, ...prebuilt });
    return { files, site: await openSite({ mounts: [{ folder: files.root, ...rules }] }) };
  };

  test.each<[string, number, boolean]>([
    ["as old as the original", 0, true],
    ["two seconds older: an archive's clock is coarse", 2, true],
    ["more than that older", 2.01, false],
    ["newer", -60, true],
  ])("%s", async (_sentence, older, used) => {
    const { files, site } = await open(
      { codings: { prebuilt: ["gzip"], compress: false } },
      { "a.txt.gz": gzipSync(text) },
    );
    utimesSync(join(files.root, "a.txt"), 1_790_000_000, 1_790_000_000);
    utimesSync(join(files.root, "a.txt.gz"), 1_790_000_000 - older, 1_790_000_000 - older);
    expect((await ask(site, "GET /a.txt", { "accept-encoding": "gzip" })).fields["content-encoding"]).toBe(
      used ? "gzip" : undefined,
    );
    await files.remove();
  });

  test("tags: each coding has one of its own, a made one names the versions of its algorithm, and they stay", async () => {
    for (const validators of ["metadata", "content"] as const) {
      const { files, site } = await open(
        { validators, codings: { prebuilt: ["br"], compress: true } },
        { "a.txt.br": brotliCompressSync(text) },
      );
      const tags = async (): Promise<string[]> =>
        Promise.all(
          ["identity", "br", "gzip"].map(
            async (coding) => (await ask(site, "GET /a.txt", { "accept-encoding": coding })).fields.etag!,
          ),
        );
      const [plain, br, gzip] = await tags();
      expect([br, gzip]).toEqual([
        expect.stringMatching(/^"[\w-]+-br"$/),
        expect.stringMatching(new RegExp(`^${plain!.slice(0, -1)}-[\\w-]{4}-gzip"$`)),
      ]);
      expect(br!.startsWith(plain!.slice(0, -1))).toBe(false);
      expect(await tags()).toEqual([plain, br, gzip]);
      expect(
        (await ask(site, "GET /a.txt", { "accept-encoding": "br", "if-none-match": gzip! })).summary,
      ).toBe("200 a.txt");
      await files.remove();
    }
  });
});

describe("places and texts that a configuration names", () => {
  test("a folder is relative to a module, a folder, or nothing", async () => {
    expect([
      toFolder("file:///srv/app/server.js"),
      toFolder("file:///srv/app/"),
      toFolder("/srv/app"),
      toFolder("app"),
      toFolder(new URL("file:///srv/a%20b/x.js")),
    ]).toEqual(["/srv/app", "/srv/app/", "/srv/app", undefined, "/srv/a b"]);
    const open = (folder: string) =>
      openFolder(folder, { where: "here", base: tree.root, links: "inside", memory: new Memory() });
    expect((await open("sub")) as FileSource).toMatchObject({ name: "sub" });
    expect(await open("sub/a.txt")).toBe(
      'here: found "sub/a.txt", which is a file; a mount serves a folder: write "sub" to serve its folder.',
    );
    expect(await open("sbu")).toMatch(
      /^here: found "sbu", which does not exist, looked for in .*; did you mean "sub"\?$/,
    );
    expect(await open("plain.txt/x")).toMatch(/which does not exist/);
    const linked = (await open("link-sub")) as FileSource;
    expect([await linked.diagnose("none/x"), await linked.diagnose("a.txt")]).toEqual([
      { text: "none does not exist" },
      undefined,
    ]);
    expect(await open("link-lost")).toMatch(/^here: found "link-lost", which does not exist/);
    expect(await open("plain.tx")).toMatch(
      /; create it, build it, or write the folder that holds the files\.$/,
    );
    symlinkSync("circle", at("circle"));
    expect(await open("circle")).toBe(
      'here: found "circle", which cannot be opened (ELOOP); check the folder circle.',
    );
    rmSync(at("circle"));
  });

  test.each<[string, string, string | undefined, string | RegExp]>([
    ["a text beside the base", "plain.txt", "BASE", "plain text"],
    [
      "one that is not there",
      "none.txt",
      "BASE",
      'here: found "none.txt", which does not exist; name a file of lines such as "text/x-bird brd bird".',
    ],
    [
      "a folder",
      "sub",
      "BASE",
      'here: found "sub", which cannot be read (EISDIR); name a file of lines such as "text/x-bird brd bird".',
    ],
    [
      "a relative one without a base",
      "plain.txt",
      undefined,
      /^here: found "plain\.txt", a relative path, but it is unknown what it is relative to; write base: import\.meta\.url/,
    ],
    ["a base that is no place", "plain.txt", "somewhere", /^here: found "plain\.txt", a relative path/],
  ])("%s", async (_sentence, path, base, expected) => {
    const result = await readTextFile(
      path,
      "here",
      base === "BASE" ? tree.root : base,
      '"text/x-bird brd bird"',
    );
    const told = result.ok ? result.text : result.problem;
    if (typeof expected === "string") expect(told).toBe(expected);
    else expect(told).toMatch(expected);
    expect((await readTextFile(at("plain.txt"), "here", undefined, "lines")).ok).toBe(true);
  });

  test.each(["", "a//b", "/a", "a/", "./a", "a/../b", ".", "..", "a\0", "a\\b", "\ud800"])(
    "memory: the path %j is none",
    (path) => {
      expect(() => memorySource({ [path]: "" })).toThrow(
        /^memorySource: found the path .*, which no URL can name; write one such as/,
      );
    },
  );

  test("memory: texts, bytes and times; directories of their own accord", async () => {
    const source = memorySource(
      {
        "a/b.txt": "é",
        "a/c.bin": new Uint8Array([1, 2]),
        "d.txt": { content: "d", modified: new Date(5000) },
      },
      { modified: new Date(1000) },
    );
    expect([
      await readDirectory(source, "", (own) => own.list()),
      await readDirectory(source, "a", (own) => own.list()),
    ]).toEqual([
      [
        { name: "a", kind: "directory" },
        { name: "d.txt", kind: "file" },
      ],
      [
        { name: "b.txt", kind: "file" },
        { name: "c.bin", kind: "file" },
      ],
    ]);
    expect(
      await readDirectory(source, "", (own) =>
        Promise.all(["a", "d.txt", "nope"].map((name) => own.stat(name))),
      ),
    ).toEqual([
      { kind: "directory", sizeBytes: 0, modifiedNs: 1_000_000_000n },
      { kind: "file", sizeBytes: 1, modifiedNs: 5_000_000_000n },
      undefined,
    ]);
    expect([
      await readDirectory(source, "a", (own) => own.stat("b.txt")),
      await readDirectory(source, "a", (own) => own.version),
    ]).toEqual([{ kind: "file", sizeBytes: 2, modifiedNs: 1_000_000_000n }, "memory"]);
    expect((await memorySource({}).open("")).kind).toBe("directory");
    const found = await source.open("d.txt");
    expect(
      found.kind === "file" && [found.file.isUnchanged!(), source.look!("d.txt", found)!.holds()],
    ).toEqual([true, true]);
    expect([await source.open("nope"), await source.diagnose("a")]).toEqual([
      { kind: "missing", because: "no-such-file" },
      undefined,
    ]);
  });
});
