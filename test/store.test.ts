import { randomBytes } from "node:crypto";
import { mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { hostname, tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { startServer } from "../src/adapters/node.js";
import { openSite, readPlan, type Site, SiteError } from "../src/index.js";
import { compileSite } from "../src/site/compile-site.js";
import { sealNow } from "../src/site/seal.js";
import { openStore } from "../src/site/store/open-store.js";
import { publishMounts } from "../src/site/store/publish.js";
import type { StoredSite } from "../src/site/store/stored-site.js";
import type { ObjectStore } from "../src/sources/store/object-store.js";
import { toBody } from "../src/sources/store/pointer.js";
import { TIMES } from "../src/sources/store/times.js";
import {
  listReleases,
  planRemoval,
  publish,
  removeReleases,
  StoreError,
  switchRelease,
} from "../src/store/index.js";
import { ask, makeTree, type Tree } from "./helpers.js";
import { type Fault, type ObjectServer, startObjectServer } from "./object-server.js";

// A release store in a folder, and one in a bucket: published to, served from, gone back in, and what goes wrong with it.
const MEBIBYTE = 1024 * 1024;
const FILM = randomBytes(3 * MEBIBYTE + 500);

let server: ObjectServer;
let folder: string;
let trees: Tree[] = [];
let sites: StoredSite[] = [];
const before = { ...process.env };

beforeAll(async () => {
  server = await startObjectServer();
  Object.assign(process.env, server.environment);
});

afterAll(async () => {
  await server.close();
  for (const name of Object.keys(server.environment)) delete process.env[name];
  Object.assign(process.env, before);
});

const times = { ...TIMES };

beforeEach(async () => {
  // What is waited for between machines is shorter here.
  Object.assign(TIMES, times, {
    announced: 0,
    letGo: 0,
    settles: 200,
    beat: 100,
    gone: 3000,
    deadline: 1500,
    rest: 300,
    lookDeadline: 1500,
  });
  folder = await mkdtemp(join(tmpdir(), "epistyle-store-"));
  server.objects.clear();
  server.requests.length = 0;
  server.fault = () => undefined;
});

afterEach(async () => {
  for (const site of sites) site.close();
  for (const tree of trees) await tree.remove();
  [sites, trees] = [[], []];
  await rm(folder, { recursive: true, force: true });
});

const PLACES = ["a folder", "a bucket"] as const;
const placeOf = (kind: (typeof PLACES)[number]): string =>
  kind === "a folder" ? join(folder, "store") : "s3://larkholm/site";

/** A build of the observatory's application: a page, and a bundle whose name has its fingerprint. */
const build = (letter: string, more: Record<string, string | Uint8Array> = {}) =>
  makeTree({
    "index.html": `<script src="/assets/app-${letter.repeat(8)}.js"></script>`,
    [`assets/app-${letter.repeat(8)}.js`]: `console.log("${letter}")`,
    "assets/shared-5f3a91bc.js": "export {}",
    ".epistyle/fingerprints.txt": `assets/app-${letter.repeat(8)}.js\nassets/shared-5f3a91bc.js\n`,
    ...more,
  }).then((tree) => {
    trees.push(tree);
    return tree;
  });

/** Publishes what is in a folder now. */
async function release(
  store: ObjectStore,
  root: string,
  onProgress: Parameters<typeof publishMounts>[2] = () => {},
) {
  const { compiled } = await compileSite({ mounts: [{ folder: root }] }, {});
  const { mounts } = await sealNow([...compiled.mounts.values()], compiled.pause, { pieces: true });
  return publishMounts(store, mounts, onProgress);
}

/** A store whose writes go through a hook. */
const hook = (store: ObjectStore, write: ObjectStore["write"]): ObjectStore => ({
  name: store.name,
  settlesMs: store.settlesMs,
  read: (...args) => store.read(...args),
  sizeOf: (key) => store.sizeOf(key),
  ...(store.create && { create: (...args) => store.create!(...args) }),
  remove: (key) => store.remove(key),
  list: (prefix) => store.list(prefix),
  write,
});

/** A store in which a second release becomes present only when it may: until then it is announced. */
function hold(store: ObjectStore): { held: ObjectStore; let: () => void; announced: Promise<void> } {
  let [open, tell] = [() => {}, () => {}];
  const gate = new Promise<void>((resolve) => {
    open = resolve;
  });
  const announced = new Promise<void>((resolve) => {
    tell = resolve;
  });
  let changes = 0;
  const held = hook(store, async (key, body) => {
    if (key === "present.json" && ++changes === 2) {
      tell();
      await gate;
    }
    await store.write(key, body);
  });
  return { held, let: () => open(), announced };
}

const serve = async (store: string, more: object = {}): Promise<StoredSite> => {
  const site = await openSite({ store, onNotice: () => {}, ...more });
  sites.push(site);
  return site;
};

const app = (letter: string): string => `/assets/app-${letter.repeat(8)}.js`;

/** What some addresses answer: a letter's page is told by its bundle. */
async function tell(site: Site, ...addresses: string[]): Promise<string[]> {
  const asked = await Promise.all(addresses.map((address) => ask(site, `GET ${address}`)));
  return asked.map(({ summary, body }) =>
    `${summary.slice(0, 3)} ${/app-(\w)|log\("(\w)/.exec(body)?.slice(1).join("") ?? ""}`.trim(),
  );
}

describe.each(PLACES)("a release store in %s", (kind) => {
  test("each file is sent once; releases are listed, switched without a gap, and removed with what only they had", async () => {
    const place = placeOf(kind);
    const [one, two, three] = [await build("a"), await build("b", { "film.bin": FILM }), await build("c")];
    const first = await publish({ mounts: [{ folder: one.root }] }, { store: place });
    expect(first).toMatchObject({ number: 1, before: undefined, isNew: true, files: 3, sent: { files: 3 } });
    const site = await serve(place);
    expect(await tell(site, "/", app("a"), app("b"))).toEqual(["200 a", "200 a", "404"]);

    const store = await openStore(place);
    // What is there is not sent again: the page, its bundle and the film are new.
    expect(await release(store, two.root)).toMatchObject({ number: 2, before: 1, sent: { files: 3 } });
    await site.reload();
    expect(await tell(site, "/", app("a"), app("b"), "/assets/shared-5f3a91bc.js")).toEqual([
      "200 b",
      "200 a",
      "200 b",
      "200",
    ]);
    expect((await ask(site, "GET /film.bin", { range: "bytes=-5" })).fields["content-range"]).toBe(
      `bytes ${FILM.length - 5}-${FILM.length - 1}/${FILM.length}`,
    );
    expect(await release(store, two.root)).toMatchObject({
      number: 2,
      isNew: false,
      before: 2,
      sent: { files: 0 },
    });

    expect(await release(store, three.root)).toMatchObject({ number: 3, sent: { files: 2 } });
    expect(
      (await listReleases(place)).map(({ number, isPresent, files }) => [number, isPresent, files]),
    ).toEqual([
      [3, true, 3],
      [2, false, 4],
      [1, false, 3],
    ]);
    // Publishing an earlier build again makes it present.
    expect(await release(store, one.root)).toMatchObject({ number: 1, isNew: false, before: 3 });
    // It was present after 2: kept are 3, the newest, and 1, which is present.
    expect(await planRemoval(place, { keep: 1 })).toMatchObject({ releases: [{ number: 2 }], files: 3 });
    expect(await listReleases(place)).toHaveLength(3);
    expect(await removeReleases(place, { keep: 1 })).toMatchObject({ releases: [{ number: 2 }], files: 3 });
    await site.reload();
    expect(await tell(site, "/", app("a"), app("b"), app("c"), "/film.bin")).toEqual([
      "200 a",
      "200 a",
      "404",
      "200 c",
      "404",
    ]);
    expect(await publish({ mounts: [{ folder: two.root }] }, { store: place })).toMatchObject({
      number: 4,
      sent: { files: 3 },
    });
  });

  test("a release is announced before it is present: its bundles answer before its page does", async () => {
    const place = placeOf(kind);
    await publish({ mounts: [{ folder: (await build("a")).root }] }, { store: place });
    const site = await serve(place);
    const store = hold(await openStore(place));
    const publishing = release(store.held, (await build("b")).root);
    await store.announced;
    await site.reload();
    expect(await tell(site, "/", app("a"), app("b"))).toEqual(["200 a", "200 a", "200 b"]);
    store.let();
    await publishing;
    await site.reload();
    expect(await tell(site, "/", app("a"), app("b"))).toEqual(["200 b", "200 a", "200 b"]);
    expect(site.store.release.number).toBe(2);
  });

  test("wherever a publisher is stopped, what is present stays whole, and publishing again goes on", async () => {
    const place = placeOf(kind);
    const [one, two] = [await build("a"), await build("b", { "film.bin": FILM })];
    const store = await openStore(place);
    await release(store, one.root);
    const site = await serve(place);
    for (let stopAt = 1; ; stopAt++) {
      let writes = 0;
      const stopped = hook(store, async (...args) => {
        if (++writes >= stopAt) throw new StoreError("killed", { isTemporary: false });
        await store.write(...args);
      });
      const outcome = await release(stopped, two.root).catch((error: Error) => error.message);
      await site.reload();
      // Its pages are there when it was made present, and never before.
      if (typeof outcome === "object") break;
      expect(outcome).toBe("killed");
      expect(await tell(site, "/", app("a"))).toEqual(["200 a", "200 a"]);
    }
    expect(await tell(site, "/", app("b"), "/film.bin")).toEqual(["200 b", "200 b", "200"]);
    expect((await listReleases(place)).filter(({ isPresent }) => isPresent)).toHaveLength(1);
  });

  test("of two publishers at once one wins, the other is told, and nothing is mixed", async () => {
    const place = placeOf(kind);
    const store = await openStore(place);
    await release(store, (await build("a")).root);
    const first = hold(store);
    const publishing = release(first.held, (await build("b")).root);
    await first.announced;
    const second = (await build("c")).root;
    await expect(release(store, second)).rejects.toThrow(
      `${place}: another publisher is at work, so this one stops; nothing was mixed. Try again when it is done.`,
    );
    first.let();
    await publishing;
    expect(await tell(await serve(place), "/", app("b"))).toEqual(["200 b", "200 b"]);
    await release(store, second);
    expect(await listReleases(place)).toHaveLength(3);
    // At the very same moment, too: whoever comes through is whole.
    const outcomes = await Promise.allSettled([
      release(store, (await build("d")).root),
      release(store, (await build("e")).root),
    ]);
    expect(outcomes.some(({ status }) => status === "fulfilled")).toBe(true);
    const [page] = await tell(await serve(place), "/");
    const letter = page!.at(-1)!;
    expect(["d", "e"]).toContain(letter);
    expect(await tell(await serve(place), app(letter))).toEqual([`200 ${letter}`]);
  });

  test("a publisher that is gone is not waited for; one that says nothing any more for a time", async () => {
    const place = placeOf(kind);
    const store = await openStore(place);
    for (const pid of [2 ** 22 - 1, process.pid]) {
      const turn = Buffer.from(JSON.stringify({ writer: "gone", host: hostname(), pid, beat: 3 }));
      await store.write("publishing.json", toBody(turn));
      const told: string[] = [];
      await release(store, (await build(pid === process.pid ? "b" : "a")).root, (one) => {
        if (one.kind === "waiting") told.push(one.text);
      });
      expect(told.length).toBe(pid === process.pid ? 1 : 0);
    }
    expect(await listReleases(place)).toHaveLength(2);
  });

  test("mounts have their rules from the configuration, and their files from the release", async () => {
    const place = placeOf(kind);
    const { root } = await build("a", { "records/2026.csv": "wren", "x.html": "x" });
    const config = {
      mounts: [
        { folder: root, withheld: ["records"], earlierReleases: { keep: 1, files: "x.html" } },
        { at: "/archive", folder: `${root}/records`, listing: true as const },
      ],
    };
    await publish(config, { store: place });
    const site = await openSite(config, { store: place });
    sites.push(site);
    expect(await tell(site, "/", "/records/2026.csv", "/archive/2026.csv", "/archive/")).toEqual([
      "200 a",
      "404",
      "200",
      "200",
    ]);
    expect(site.mounts.map(({ at, source }) => [at, source])).toEqual([
      ["/", `release 1 of ${place}`],
      ["/archive", `release 1 of ${place}`],
    ]);
    await release(await openStore(place), (await build("b")).root);
    // The new one has other mounts: the old one stays.
    await expect(site.reload()).rejects.toThrow(
      `The configuration has a mount at /archive, but release 2 of ${place} was published with mounts at /; publish it again with this configuration.`,
    );
    expect(await tell(site, "/", "/archive/2026.csv")).toEqual(["200 a", "200"]);
    await expect(openSite(config, { store: place, seal: true } as never)).rejects.toThrow(SiteError);
  });
});

describe("bytes on the way", () => {
  const openFilm = async (more: object = {}) => {
    const { root } = await build("a", { "film.bin": FILM });
    await release(await openStore("s3://larkholm/site"), root);
    const site = await serve("s3://larkholm/site", more);
    server.requests.length = 0;
    return site;
  };
  const read = async (site: Site, target: string, headers = {}): Promise<string> => {
    const answer = await site.respond({ method: "GET", target, headers });
    if (answer.kind === "pass") return "pass";
    const bytes = await readPlan(answer).catch((error: Error) => error.message);
    if (typeof bytes === "string") return bytes;
    return `${answer.status} ${Buffer.from(bytes).equals(FILM) ? "whole" : bytes.length}`;
  };
  const pieces = () =>
    server.requests.filter((one) => one.includes("bytes=")).map((one) => one.replace(/^.* /, ""));

  test("the store is asked once, however many ask; a range asks for its pieces alone; HEAD for nothing", async () => {
    const site = await openFilm();
    await ask(site, "HEAD /film.bin");
    expect(pieces()).toEqual([]);
    const many = await Promise.all(
      Array.from({ length: 20 }, () => read(site, "/film.bin", { range: "bytes=1048570-1048579" })),
    );
    expect([new Set(many), pieces().sort()]).toEqual([
      new Set(["206 10"]),
      ["bytes=0-1048575", "bytes=1048576-2097151"],
    ]);
    expect([await read(site, "/film.bin"), pieces().length]).toEqual(["200 whole", 4]);
    const all = await Promise.all(Array.from({ length: 20 }, () => tell(site, "/")));
    expect([
      new Set(all.flat()),
      server.requests.filter((one) => /files/.test(one) && !/bytes/.test(one)).length,
    ]).toEqual([new Set(["200 a"]), 1]);
    expect(site.store.counts).toMatchObject({ failures: 0, disk: 0 });
  });

  test.each<["cut" | "wrong" | "longer" | "503" | "403" | "reset", RegExp]>([
    ["wrong", /has other bytes than its name says/],
    ["longer", /longer than/],
    ["cut", /cut off|does not answer/],
    ["503", /503 SlowDown/],
    ["403", /refuses the key/],
    ["reset", /does not answer/],
  ])(
    "a store whose answers are %s: what is known is answered, the rest is 503, and nothing wrong is sent",
    async (fault, why) => {
      const site = await openFilm();
      const server_ = await startServer(site, { port: 0, health: "/health" });
      const get = (path: string) => fetch(new URL(path, server_.url));
      expect((await get("/")).status).toBe(200);
      server.fault = (request) => (/files|present/.test(request) ? fault : undefined);
      const [known, unknown, film] = [await get("/"), await get(app("a")), await get("/film.bin")];
      expect([known.status, unknown.status, film.status]).toEqual([200, 503, 503]);
      expect([
        unknown.headers.get("retry-after"),
        film.headers.get("retry-after"),
        film.headers.get("etag"),
      ]).toEqual(["1", "1", null]);
      const explained = await site.explain({ method: "GET", target: app("a"), headers: {} });
      expect(explained.why).toMatch(why);
      await site.reload().catch(() => {});
      const ready = await get("/health/ready");
      expect([ready.status, await ready.text()]).toEqual([
        200,
        expect.stringMatching(/^ready\nrelease 1; the store/),
      ]);
      server.fault = () => undefined;
      await expect.poll(async () => (await get(app("a"))).status).toBe(200);
      await server_.close();
    },
  );

  test("an answer that was damaged once is asked for again", async () => {
    const site = await openFilm();
    const left = new Map<Fault, number>([
      ["wrong", 1],
      ["503", 2],
    ]);
    server.fault = (request) => {
      for (const [fault, times] of left)
        if (/files/.test(request) && times > 0) {
          left.set(fault, times - 1);
          return fault;
        }
      return undefined;
    };
    expect(await tell(site, app("a"))).toEqual(["200 a"]);
    expect([site.store.counts.failures, [...left.values()]]).toEqual([0, [0, 0]]);
  });

  test("a cache on disk answers the next process, with the store away too; what is damaged there is not believed", async () => {
    const cache = { folder: join(folder, "cache"), bytes: 10 * MEBIBYTE };
    const first = await openFilm({ cache });
    expect([await read(first, "/film.bin"), await tell(first, "/")]).toEqual(["200 whole", ["200 a"]]);
    await expect
      .poll(async () => (await readdir(join(cache.folder, "files"))).length)
      .toBeGreaterThanOrEqual(5);
    first.close();
    server.fault = () => "503";
    const notices: string[] = [];
    const second = await serve("s3://larkholm/site", {
      cache,
      onNotice: (text: string) => notices.push(text),
    });
    expect([await read(second, "/film.bin"), await tell(second, "/", app("a"))]).toEqual([
      "200 whole",
      ["200 a", "503"],
    ]);
    expect([second.store.counts.disk, second.store.failure?.message]).toEqual([
      5,
      expect.stringContaining("503 SlowDown"),
    ]);
    expect(notices).toEqual([
      expect.stringMatching(/^s3:.* release 1 of s3:.* is served from the cache .*, as it was known last\.$/),
    ]);
    server.fault = () => undefined;
    for (const name of await readdir(join(cache.folder, "files")))
      for (const file of await readdir(join(cache.folder, "files", name))) {
        const path = join(cache.folder, "files", name, file);
        const bytes = await readFile(path);
        bytes[0]! ^= 1;
        await writeFile(path, bytes);
      }
    const third = await serve("s3://larkholm/site", { cache });
    expect([await read(third, "/film.bin"), await tell(third, "/")]).toEqual(["200 whole", ["200 a"]]);
    expect(third.store.counts).toMatchObject({ disk: 0, store: 5 });
  });

  test("a cache keeps to its size; one that cannot be written is told and gone around", async () => {
    const cache = { folder: join(folder, "cache"), bytes: 2.5 * MEBIBYTE };
    const site = await openFilm({ cache });
    expect(await read(site, "/film.bin")).toBe("200 whole");
    const sizes = async () => {
      const all = await readdir(cache.folder, { recursive: true, withFileTypes: true });
      const files = all.filter((one) => one.isFile() && /files/.test(one.parentPath));
      return Promise.all(files.map(async (one) => (await readFile(join(one.parentPath, one.name))).length));
    };
    const total = async () => (await sizes()).reduce((sum, size) => sum + size, 0);
    await expect.poll(async () => (await total()) > MEBIBYTE && (await total()) <= cache.bytes).toBe(true);
    await writeFile(join(folder, "file"), "");
    const notices: string[] = [];
    const broken = { folder: join(folder, "file"), bytes: MEBIBYTE };
    const other = await serve("s3://larkholm/site", {
      cache: broken,
      onNotice: (text: string) => notices.push(text),
    });
    expect([await read(other, "/film.bin"), await tell(other, "/")]).toEqual(["200 whole", ["200 a"]]);
    expect(notices[0]).toMatch(
      /^The cache .*file.* cannot be (read|written) \(ENOTDIR|EEXIST\); files come from the store meanwhile\.$/,
    );
  });
});

test("a release whose seal cannot be read at first is in use as soon as it can", async () => {
  const place = "s3://larkholm/site";
  const store = await openStore(place);
  await release(store, (await build("a")).root);
  TIMES.lookEvery = 50;
  const notices: string[] = [];
  const site = await serve(place, { onNotice: (text: string) => notices.push(text) });
  let left = 0;
  server.fault = (request) => (/GET .*releases\//.test(request) && left-- > 0 ? "wrong" : undefined);
  // The publisher reads seals, too: what it wrote is put back, and comes with the faults.
  const { objects } = server;
  const text = objects.get("site/present.json")!;
  await release(store, (await build("b")).root);
  const next = objects.get("site/present.json")!;
  objects.set("site/present.json", text);
  await site.reload();
  left = 5;
  objects.set("site/present.json", next);
  await expect.poll(() => tell(site, "/", app("a"), app("b"))).toEqual(["200 b", "200 a", "200 b"]);
  expect([left <= 0, site.store.release.number]).toEqual([true, 2]);
  expect(notices.filter((one) => /has other bytes/.test(one)).length).toBeLessThanOrEqual(2);
  expect(notices.at(-1)).toBe(`release 2 of ${place} is in use.`);
});

describe("what a store cannot be", () => {
  test.each<[string, string, Record<string, string>, string]>([
    ["nothing", "", {}, 'store: found ""; write a folder, or s3://BUCKET/PREFIX.'],
    [
      "another protocol",
      "ftp://larkholm/site",
      {},
      'store: found "ftp://larkholm/site"; a store is a folder, or a bucket',
    ],
    ["a bucket without a name", "s3:///site", {}, 'store: found the bucket ""; write s3://BUCKET/PREFIX'],
    [
      "no environment",
      "s3://larkholm/site",
      {},
      "store: found no S3_ENDPOINT, no S3_REGION, no S3_ACCESS_KEY_ID, no S3_SECRET_ACCESS_KEY in the environment",
    ],
    [
      "an endpoint without a protocol",
      "s3://larkholm/site",
      { S3_ENDPOINT: "objects:9000", S3_REGION: "x", S3_ACCESS_KEY_ID: "x", S3_SECRET_ACCESS_KEY: "x" },
      "store: found S3_ENDPOINT=objects:9000; write the address of the store",
    ],
  ])("%s", async (_what, place, environment, message) => {
    await expect(openStore(place, environment)).rejects.toThrow(message);
  });

  test.each<[string, string]>([
    ["not JSON", "<html>"],
    ["another object", "{}"],
    ["names of every object", '{"__proto__":1,"constructor":2,"store":1}'],
    [
      "a release that is not there",
      '{"store":1,"revision":1,"writer":"x","last":1,"present":1,"releases":[]}',
    ],
    [
      "a seal that is no digest",
      '{"store":1,"revision":1,"writer":"x","last":1,"releases":[{"number":1,"seal":"../../etc/passwd"}]}',
    ],
  ])("a pointer that is %s is told, and changes nothing", async (_what, text) => {
    const place = placeOf("a folder");
    await release(await openStore(place), (await build("a")).root);
    const site = await serve(place);
    await writeFile(join(place, "present.json"), text);
    await expect(openSite({ store: place })).rejects.toThrow(StoreError);
    await site.reload();
    expect([await tell(site, "/"), site.store.failure?.message]).toEqual([
      ["200 a"],
      expect.stringMatching(/present\.json/),
    ]);
  });

  test("nothing published, a release that is not there, a bucket that is not there", async () => {
    const place = placeOf("a folder");
    await expect(openSite({ store: place })).rejects.toThrow(`${place}: nothing was published there yet`);
    await expect(switchRelease(place, 7)).rejects.toThrow(
      "there is no release 7; nothing was published there yet.",
    );
    await release(await openStore(place), (await build("a")).root);
    await expect(switchRelease(place, 7)).rejects.toThrow("there is no release 7; it has 1.");
    expect([await switchRelease(place, 1), await listReleases(join(folder, "none"))]).toEqual([1, []]);
    await expect(listReleases("s3://elsewhere/site")).rejects.toThrow(
      "there is no such bucket; create it, or name another one.",
    );
  });

  test("a seal or a file that was changed in the store is not served", async () => {
    const place = placeOf("a folder");
    await release(await openStore(place), (await build("a")).root);
    const site = await serve(place);
    for (const name of await readdir(join(place, "files"), { recursive: true })) {
      if (name.length > 10) await writeFile(join(place, "files", name), "other bytes");
    }
    expect(await tell(site, app("a"))).toEqual(["503"]);
    const [seal] = await readdir(join(place, "releases"));
    await writeFile(join(place, "releases", seal!), '{"seal":1,"mounts":[]}\n');
    await expect(openSite({ store: place })).rejects.toThrow(
      `releases/${seal} has other bytes than its name says`,
    );
  });
});
