import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { writeFileSync } from "node:fs";
import { request } from "node:http";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { brotliDecompressSync, gunzipSync } from "node:zlib";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { cacheNames, type RunningCache, startCache } from "../examples/replicas/caches.mjs";
import { type Replica, startReplicas } from "../examples/replicas/replicas.mjs";
import { NAVIGATION } from "../src/testing/ask/ask.js";
import { freePort, makeTree, type Tree } from "./helpers.js";

// Two replicas on two copies, behind shared caches as they are: what visitors get is right whatever was asked before.
const CONFIG = {
  mounts: [
    {
      folder: "guide",
      errorPages: { 404: "/404.html" },
      variants: { formats: ["avif", "webp"], languages: ["en", "nb"] },
      caching: [
        { files: "fingerprinted", policy: "immutable" },
        {
          files: "**",
          policy: { maxAge: "1s", staleIfError: "1d" },
          cdn: { maxAge: "3s", staleIfError: "1d" },
        },
      ],
    },
    { at: "/explorer", folder: "explorer", kind: "app" },
  ],
};
const TEXT = `<title>Field guide</title>${"Larkholm ".repeat(500)}`;
const PDF = Buffer.from(Array.from({ length: 150_000 }, (_, index) => (index * 31) % 251));

interface Told {
  readonly status: number;
  readonly headers: Readonly<Record<string, string | undefined>>;
  readonly body: Buffer;
}

function ask(base: string, path: string, headers: Readonly<Record<string, string>> = {}): Promise<Told> {
  return new Promise((done, failed) => {
    const sent = request(base + path, { headers, agent: false }, (answer) => {
      const chunks: Buffer[] = [];
      answer
        .on("data", (chunk: Buffer) => chunks.push(chunk))
        .on("end", () =>
          done({
            status: answer.statusCode!,
            headers: answer.headers as Told["headers"],
            body: Buffer.concat(chunks),
          }),
        );
      answer.on("error", failed);
    });
    sent.on("error", failed).end();
  });
}

function permutations<T>(items: readonly T[]): T[][] {
  return items.length < 2
    ? [[...items]]
    : items.flatMap((one, i) => permutations(items.toSpliced(i, 1)).map((rest) => [one, ...rest]));
}

describe.each(cacheNames)("replicas behind %s", (name) => {
  let [site, work]: Tree[] = [];
  let cache: RunningCache;
  let replicas: Replica[];
  /** What the replicas answered, in their own words. */
  let log: { target: string; status: number }[] = [];

  beforeAll(async () => {
    site = await makeTree({
      "guide/index.html": TEXT,
      "guide/404.html": `none here ${"-".repeat(2000)}`,
      "guide/season.pdf": PDF,
      "guide/app-BGHzbpMo.js": `birds(${"1,".repeat(2000)})`,
      "guide/view.png": "png",
      "guide/view.avif": "avif",
      "guide/view.webp": "webp",
      "guide/notes.html": "hello",
      "guide/notes.nb.html": "hei",
      "explorer/index.html": `<title>Explorer</title>${" ".repeat(2000)}`,
    });
    work = await makeTree({});
    // Times of replicas differ, as those of copies do.
    execFileSync("touch", ["-d", "2026-01-01", join(site.root, "guide/index.html")]);
    replicas = await startReplicas({
      folder: work.root,
      site: site.root,
      ports: [0, 0],
      config: JSON.stringify(CONFIG),
      log: (_replica, line) => log.push(JSON.parse(line)),
    });
    execFileSync("touch", ["-d", "2026-02-02", join(replicas[1]!.folder, "guide/index.html")]);
    cache = await startCache(name, {
      folder: work.root,
      port: await freePort(),
      replicas: replicas.map(({ port }) => port),
    });
  });
  afterAll(async () => {
    await cache?.close();
    await Promise.all(replicas?.map((one) => one.stop()) ?? []);
    await Promise.all([site, work].map((tree) => tree?.remove()));
  });

  const inLog = async (path: string): Promise<number[]> => {
    await wait(100);
    return log.filter(({ target }) => target === path).map(({ status }) => status);
  };

  test("what one replica says, the other says: in every field but the dates", async () => {
    for (const path of ["/", "/season.pdf", "/app-BGHzbpMo.js", "/none", "/explorer/records/1"]) {
      for (const coding of ["br", "gzip", "identity"]) {
        const [one, two] = await Promise.all(
          replicas.map(({ port }) =>
            ask(`http://127.0.0.1:${port}`, path, { ...NAVIGATION, "Accept-Encoding": coding }),
          ),
        );
        const tell = ({
          status,
          headers: { date, "last-modified": modified, ...rest },
          body,
        }: Told): unknown => [status, rest, createHash("sha256").update(body).digest("hex")];
        expect(tell(one!)).toEqual(tell(two!));
      }
    }
  });

  test("each client gets a coding that it takes, in any order", async () => {
    const clients = {
      br: "br, gzip",
      gzip: "gzip",
      "no br": "gzip;q=0.8, br;q=0",
      none: "identity",
      nothing: undefined,
    };
    const decode = { br: brotliDecompressSync, gzip: gunzipSync, none: (bytes: Buffer) => bytes };
    for (const [index, order] of permutations(Object.entries(clients)).entries()) {
      if (index % 4 !== 0) continue;
      for (const [client, accepted] of [...order, ...order]) {
        const { status, headers, body } = await ask(
          cache.url,
          `/?order=${index}`,
          accepted === undefined ? {} : { "Accept-Encoding": accepted },
        );
        const coding = (headers["content-encoding"] ?? "none") as keyof typeof decode;
        expect([client, status, String(decode[coding](body)) === TEXT, headers.vary]).toEqual([
          client,
          200,
          true,
          "Accept-Encoding",
        ]);
        if (coding !== "none")
          expect({ br: ["br"], gzip: ["gzip"], "no br": ["gzip"] }[client]).toContain(coding);
      }
    }
  });

  test("each client gets the picture in a format and the page in a language of its own, in every order", async () => {
    const pictures = {
      avif: "image/avif,image/webp,image/*",
      webp: "image/webp,*/*;q=0.8",
      png: "image/*,*/*;q=0.5",
    };
    const pages = { hei: "nb, en;q=0.5", hello: "fr, en;q=0.5" };
    for (const [path, name, clients] of [
      ["/view.png", "Accept", pictures],
      ["/notes", "Accept-Language", pages],
    ] as const)
      for (const [index, order] of permutations(Object.entries(clients)).entries())
        for (const [content, wanted] of [...order, ...order]) {
          const { status, headers, body } = await ask(cache.url, `${path}?order=${index}`, {
            [name]: wanted,
          });
          expect([content, status, String(body), headers.vary]).toEqual([content, 200, content, name]);
        }
  });

  test("revisits are confirmed, whichever replica is asked", async () => {
    const first = await ask(cache.url, "/", { "Accept-Encoding": "br" });
    const validators = {
      "Accept-Encoding": "br",
      "If-None-Match": first.headers.etag!,
      "If-Modified-Since": first.headers["last-modified"]!,
    };
    const statuses = new Set<number>();
    for (let turn = 0; turn < 14; turn++) {
      statuses.add((await ask(cache.url, "/", validators)).status);
      await wait(300);
    }
    expect([...statuses]).toEqual([304]);
    // The cache itself asks with its validator, when its copy is stale.
    expect(await inLog("/")).toContain(304);
  });

  test("without a lifetime a replica is asked each time: one cache asks with its validator, one for the whole page", async () => {
    const wanted = { squid: 304, varnish: 200 }[name];
    const askOnce = async (): Promise<number | undefined> => {
      await ask(cache.url, "/explorer/", {});
      return (await inLog("/explorer/")).at(-1);
    };
    // The first copy is kept a moment after it was sent.
    await expect.poll(askOnce).toBe(wanted);
    for (let turn = 0; turn < 3; turn++) await askOnce();
    await expect.poll(async () => (await inLog("/explorer/")).slice(-3)).toEqual([wanted, wanted, wanted]);
  });

  test("parts of a file, from the cache and past it", async () => {
    for (const path of ["/season.pdf?cold", "/season.pdf?warm"]) {
      if (path.endsWith("warm")) await ask(cache.url, path);
      const whole = { status: 200, body: PDF };
      const { etag } = (await ask(`http://127.0.0.1:${replicas[0]!.port}`, path)).headers;
      const asked: [Record<string, string>, { status: number; body?: Buffer }][] = [
        [{ Range: "bytes=0-99" }, { status: 206, body: PDF.subarray(0, 100) }],
        [{ Range: "bytes=149900-" }, { status: 206, body: PDF.subarray(149_900) }],
        [{ Range: "bytes=-50" }, { status: 206, body: PDF.subarray(-50) }],
        [
          { Range: "bytes=0-99", "If-Range": etag! },
          { status: 206, body: PDF.subarray(0, 100) },
        ],
        [{ Range: "bytes=0-99", "If-Range": '"another"' }, whole],
        [{ Range: "bytes=200000-" }, { status: 416 }],
      ];
      for (const [headers, { status, body }] of asked) {
        const told = await ask(cache.url, path, headers);
        // A cache may answer with the whole where a part was asked for (RFC 9110 §14.2), and never with another part.
        const isWhole = told.status === 200 && told.body.equals(PDF);
        expect([path, headers, isWhole ? "whole" : told.status]).toEqual([
          path,
          headers,
          isWhole ? "whole" : status,
        ]);
        if (body !== undefined && !isWhole) expect(told.body.equals(body)).toBe(true);
      }
    }
  });

  test("what is not there is not kept: a file that comes is found", async () => {
    for (let turn = 0; turn < 2; turn++) expect((await ask(cache.url, "/new.html")).status).toBe(404);
    for (const { folder } of replicas) writeFileSync(join(folder, "guide/new.html"), "ringed today");
    await expect.poll(async () => (await ask(cache.url, "/new.html")).status, { interval: 100 }).toBe(200);
  });

  test("the application's page goes to those who navigate alone, in every order", async () => {
    const clients = {
      navigation: NAVIGATION,
      script: { Accept: "*/*", "Sec-Fetch-Mode": "cors" },
      program: { Accept: "application/json" },
      "an old browser": { Accept: "text/html,*/*;q=0.8" },
    };
    for (const [index, order] of permutations(Object.entries(clients)).entries()) {
      for (const [client, headers] of [...order, ...order]) {
        const { status, body } = await ask(cache.url, `/explorer/records/${index}`, headers);
        const isPage = client === "navigation" || client === "an old browser";
        expect([client, status, body.includes("<title>Explorer</title>")]).toEqual([
          client,
          isPage ? 200 : 404,
          isPage,
        ]);
      }
    }
  });

  test("what is fresh is not asked for; what networks are told counts for those that read it", async () => {
    const path = "/index.html?fresh";
    const started = performance.now();
    for (let asked = 0; asked < 80; asked++) {
      expect((await ask(cache.url, path)).status).toBe(200);
      await wait(20);
    }
    const seconds = (performance.now() - started) / 1000;
    const reached = await inLog(path);
    // Three seconds by CDN-Cache-Control; one by Cache-Control, whose copy is already as old as it says to the second.
    const lifetime = name === "varnish" ? 3 : 1;
    expect(reached.length).toBeGreaterThanOrEqual(Math.max(1, Math.floor(seconds / (lifetime + 1))));
    expect(reached.length).toBeLessThanOrEqual(Math.ceil(seconds / lifetime) + 1);
    const bundle = "/app-BGHzbpMo.js";
    for (let turn = 0; turn < 20; turn++)
      expect((await ask(cache.url, bundle)).headers["cache-control"]).toBe(
        "public, max-age=31536000, immutable",
      );
    log = log.filter(({ target }) => target !== bundle);
    await ask(cache.url, bundle);
    expect(await inLog(bundle)).toEqual([]);
  });

  test("while a replica is down all is answered, and while both are, what is kept; then what is new", async () => {
    const [one, two] = replicas as [Replica, Replica];
    const path = "/?bridge";
    const first = await ask(cache.url, path);
    await one.stop();
    for (let turn = 0; turn < 40; turn++)
      expect([turn, (await ask(cache.url, `/?turn=${turn}`)).status]).toEqual([turn, 200]);
    await two.stop();
    await wait(3500);
    for (let turn = 0; turn < 5; turn++) {
      const bridged = await ask(cache.url, path);
      expect([bridged.status, bridged.body.equals(first.body)]).toEqual([200, true]);
      await wait(200);
    }
    expect((await ask(cache.url, "/?never-asked")).status).toBeGreaterThanOrEqual(500);
    for (const { folder } of replicas) writeFileSync(join(folder, "guide/index.html"), "a new guide");
    await Promise.all(replicas.map((replica) => replica.start()));
    await expect
      .poll(async () => String((await ask(cache.url, path)).body), { interval: 300 })
      .toBe("a new guide");
    for (let turn = 0; turn < 20; turn++) expect((await ask(cache.url, `/?again=${turn}`)).status).toBe(200);
  });
});
