import { once } from "node:events";
import { createServer, type Server } from "node:http";
import { connect as connectHttp2, createServer as createHttp2, type Http2Server } from "node:http2";
import type { AddressInfo } from "node:net";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { openChanges, step } from "../fuzz/changes.mjs";
import { readPlan } from "../src/adapters/in-process.js";
import { nodeHandler, type ResponseRecord } from "../src/adapters/node.js";
import { Fields } from "../src/core/fields/fields.js";
import { KeptAnswers, type ReadyPlan, type RequestKey } from "../src/core/keep/kept-answers.js";
import { RecentKeys } from "../src/core/keep/recent-keys.js";
import { type FileSource, memorySource, openSite } from "../src/index.js";

/** Long runs are made apart: `npm run fuzz -- --only changes`. */
const STEPS = 300;

test("whatever changes in a tree shows at once: each answer is that of a fresh site", async () => {
  const changes = await openChanges({ openSite, nodeHandler, readPlan });
  const outcomes = new Map<string, number>();
  let mostKept = 0;
  try {
    const steps = fc.sample(step, { numRuns: STEPS / 8, seed: 20_261_126 });
    for (const { how, asks, a, b } of steps) {
      if (how === "move and put back") await changes.moveAndPutBack(a, b);
      else changes.change(how, a, b);
      for (let i = 0; i < asks; i++) {
        // The same is asked more than once, so that it is kept.
        const outcome = await changes.ask(a + (i >> 1), b + (i >> 2));
        outcomes.set(outcome, (outcomes.get(outcome) ?? 0) + 1);
      }
      mostKept = Math.max(mostKept, changes.kept());
    }
  } finally {
    await changes.close();
  }
  expect(mostKept).toBeGreaterThan(10);
  expect([...outcomes.keys()].sort()).toEqual(expect.arrayContaining(["200", "206", "301", "304", "404"]));
});

describe("an answer that is given again", () => {
  const records: ResponseRecord[] = [];
  const servers: (Server | Http2Server)[] = [];
  const portOf = (index: number): number => (servers[index]!.address() as AddressInfo).port;

  beforeAll(async () => {
    const source = memorySource({
      "index.html": "<h1>Larkholm</h1>",
      "404.html": "not here",
      "a.txt": "x".repeat(300_000),
    });
    const site = await openSite({ mounts: [{ source, errorPages: { 404: "/404.html" } }] });
    const onResponse = (record: ResponseRecord): void => void records.push(record);
    const handler = nodeHandler(site, { onResponse });
    const impatient = nodeHandler(site, { stalledAfterSeconds: 0.3, onResponse });
    servers.push(createServer(handler), createHttp2(handler), createHttp2(impatient));
    for (const server of servers) await once(server.listen(0, "127.0.0.1"), "listening");
  });
  afterAll(() => {
    for (const server of servers) server.close();
  });

  test.each<[string, string, RequestInit]>([
    ["a page", "/", {}],
    ["HEAD", "/", { method: "HEAD" }],
    ["a current copy", "/", { headers: { "if-none-match": "*" } }],
    ["what is missing", "/none", {}],
    ["a redirect", "/a.txt/../index.html?b", {}],
    ["a large one", "/a.txt", {}],
  ])("%s: sent and told as the first time", async (_, path, init) => {
    const told: object[] = [];
    for (let i = 0; i < 4; i++) {
      records.length = 0;
      const response = await fetch(`http://127.0.0.1:${portOf(0)}${path}`, { ...init, redirect: "manual" });
      const body = await response.text();
      await expect.poll(() => records.length).toBe(1);
      const { request, answer, delivery, remoteAddress, why } = records[0]!;
      const fields = [...response.headers].filter(([name]) => name !== "date");
      told.push({
        status: response.status,
        fields,
        body,
        target: request.target,
        delivery,
        remoteAddress,
        why,
        file: answer.kind === "response" && answer.file,
      });
    }
    expect(told.slice(1)).toEqual([told[0], told[0], told[0]]);
  });

  test("is kept from the second time on, for each value of the fields that it depends on, and a part of it never", async () => {
    const site = await openSite({ mounts: [{ source: memorySource({ "a.txt": "x".repeat(5000) }) }] });
    const server = createServer(nodeHandler(site));
    servers.push(server);
    await once(server.listen(0, "127.0.0.1"), "listening");
    const { port } = server.address() as AddressInfo;
    const kept = (): number =>
      site.memory.metrics().find(({ name }) => name === "answers kept with their bytes")!.entries;
    const seen: number[] = [];
    for (const headers of [
      {},
      { "Accept-Encoding": "br" },
      { "Accept-Encoding": "gzip" },
      { Range: "bytes=1-2" },
      { "X-Other": "1" },
    ] as Record<string, string>[])
      for (const _ of [1, 2]) {
        await (
          await fetch(`http://127.0.0.1:${port}/a.txt`, {
            headers: { "Accept-Encoding": "identity", ...headers },
          })
        ).text();
        seen.push(kept());
      }
    expect(seen).toEqual([0, 1, 2, 2, 3, 3, 3, 3, 3, 3]);
  });

  test("over HTTP/2, and cut off where the client takes nothing", async () => {
    const sessions = [1, 2].map((index) => connectHttp2(`http://127.0.0.1:${portOf(index)}`));
    const read = async (takes: boolean): Promise<number> => {
      const stream = sessions[takes ? 0 : 1]!.request({ ":path": "/a.txt" }).on("error", () => {});
      let bytes = 0;
      await once(stream, "response");
      if (!takes) await expect.poll(() => records.length).toBe(4);
      stream.on("data", (chunk: Buffer) => {
        bytes += chunk.length;
      });
      // A stream that is cut off may tell an error before it is closed.
      if (!stream.destroyed) await new Promise((done) => stream.on("close", done));
      return bytes;
    };
    records.length = 0;
    expect([await read(true), await read(true), await read(true)]).toEqual([300_000, 300_000, 300_000]);
    expect(await read(false)).toBeLessThan(300_000);
    await expect
      .poll(() => records.map(({ delivery }) => delivery.cutOff ?? "whole"))
      .toEqual(["whole", "whole", "whole", "client-stalled"]);
    for (const session of sessions) session.close();
  });

  test("is the host's where it is asked for under its prefix, and the next handler's where it is nobody's", async () => {
    const site = await openSite({
      mounts: [{ source: memorySource({ "a.txt": "a", "static/a.txt": "inner" }) }],
    });
    const handler = nodeHandler(site);
    const server = createServer((request, response) => {
      const { url } = request;
      if (url!.startsWith("/static/")) Object.assign(request, { originalUrl: url, url: url!.slice(7) });
      handler(request, response, () => {
        passed++;
        response.end("the application");
      });
    });
    let passed = 0;
    await once(server.listen(0, "127.0.0.1"), "listening");
    const port = (server.address() as AddressInfo).port;
    const get = async (path: string): Promise<string> =>
      (await fetch(`http://127.0.0.1:${port}${path}`)).text();
    for (let i = 0; i < 3; i++)
      expect([
        await get("/a.txt"),
        await get("/static/a.txt"),
        await get("/static/none"),
        await get("/none"),
      ]).toEqual(["a", "a", "the application", "the application"]);
    expect(passed).toBe(6);
    server.close().closeAllConnections();
  });
});

test("a file that fails while it is read for keeping is told with a 500 each time, and closed", async () => {
  const source = memorySource({ "a.txt": "a", "404.html": "not here" });
  const closed: string[] = [];
  const failing: FileSource = {
    ...source,
    async open(path) {
      const found = await source.open(path);
      if (found.kind !== "file") return found;
      return {
        ...found,
        file: {
          ...found.file,
          read: () => Promise.reject(new Error("EIO")),
          close: () => void closed.push(path),
        },
      };
    },
  };
  const server = createServer(
    nodeHandler(await openSite({ mounts: [{ source: failing, charset: "", validators: "metadata" }] })),
  );
  await once(server.listen(0, "127.0.0.1"), "listening");
  const ask = async () =>
    (await fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}/a.txt`)).status;
  expect([await ask(), await ask(), await ask(), closed]).toEqual([
    500,
    500,
    500,
    ["a.txt", "a.txt", "a.txt"],
  ]);
  server.close().closeAllConnections();
});

test("a next handler that throws is told so each time, and never the server", async () => {
  const handler = nodeHandler(await openSite({ mounts: [{ source: memorySource({ "a.txt": "a" }) }] }));
  const told: unknown[] = [];
  const server = createServer((request, response) =>
    handler(request, response, (error) => {
      if (error === undefined) throw new Error("the application's");
      told.push((error as Error).message);
      response.end("sorry");
    }),
  );
  await once(server.listen(0, "127.0.0.1"), "listening");
  for (let i = 0; i < 4; i++)
    expect(
      await (await fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}/none`)).text(),
    ).toBe("sorry");
  expect(told).toEqual(Array(4).fill("the application's"));
  server.close().closeAllConnections();
});

test("a listener of answers that throws ends nothing but its answer", async () => {
  let told = 0;
  const onResponse = (): never => {
    told++;
    throw new Error("the log is full");
  };
  const server = createServer(
    nodeHandler(await openSite({ mounts: [{ source: memorySource({ "a.txt": "a" }) }] }), { onResponse }),
  );
  await once(server.listen(0, "127.0.0.1"), "listening");
  for (let i = 0; i < 4; i++)
    expect(
      await (await fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}/a.txt`)).text(),
    ).toBe("a");
  await expect.poll(() => told).toBe(4);
  server.close().closeAllConnections();
});

test("no more is kept than may be, and what is used stays", () => {
  const kept = new KeptAnswers(() => 0);
  const key = (target: string): RequestKey => ({
    method: "GET",
    target,
    strippedPrefix: undefined,
    mayPass: false,
    isSecure: false,
  });
  const plan = (bytes: number): ReadyPlan => ({
    kind: "response",
    status: 200,
    fields: Fields.NONE,
    body: { kind: "bytes", bytes: new Uint8Array(bytes) },
    file: undefined,
    reason: { code: "exact-file" },
  });
  const none = { reads: [], looks: [], ownBytes: 0 };
  kept.keep(key("/used"), plan(500_000), { ...none, ownBytes: 500_000 }, 0);
  for (let i = 0; i < 300; i++) {
    kept.keep(key(`/${i}`), plan(500_000), { ...none, ownBytes: 500_000 }, 0);
    expect(kept.recall(key("/used"), [], 0)).toBeDefined();
    expect(kept.cost).toBeLessThanOrEqual(kept.options.bound);
  }
  expect([kept.recall(key("/0"), [], 0), kept.recall(key("/299"), [], 0) === undefined]).toEqual([
    undefined,
    false,
  ]);
  // What was used, and then no more, makes room like the others.
  for (let i = 0; i < 300; i++)
    kept.keep(key(`/late/${i}`), plan(500_000), { ...none, ownBytes: 500_000 }, 0);
  expect(kept.recall(key("/used"), [], 0)).toBeUndefined();
  kept.keep(key("/299"), plan(500_000), { ...none, ownBytes: 500_000 }, 0);
  // What differs in a field that was read is another answer, of which some are kept for a target; the rest makes room.
  for (let i = 0; i < 20; i++) kept.keep(key("/many"), plan(1), { ...none, reads: [[0, String(i)]] }, 0);
  const found = Array.from({ length: 20 }, (_, i) => kept.recall(key("/many"), [String(i)], 0) !== undefined);
  expect(found.lastIndexOf(false)).toBe(11);
  // One whose look does not hold is let go of; one that was not asked for lately is not looked at.
  const before = kept.size;
  kept.keep(key("/gone"), plan(1), { ...none, looks: [{ holds: () => false, changedMs: 0 }] }, 0);
  expect([kept.size - before, kept.recall(key("/gone"), [], 0), kept.size - before]).toEqual([
    1,
    undefined,
    0,
  ]);
  // The same once more takes the place of the one before; a very long target is not worth it.
  const alike = kept.size;
  for (let i = 0; i < 2; i++) kept.keep(key("/alike"), plan(1), { ...none, reads: [[0, "br"]] }, 0);
  const long = `/${"a".repeat(20_000)}`;
  expect([
    kept.size - alike,
    kept.isWanted(key(long), 0),
    kept.isWanted(key(long), 0),
    kept.isWanted(key("/alike"), 0),
    kept.isWanted(key("/alike"), 0),
  ]).toEqual([1, false, false, false, true]);
  // Of several for a target, only that one goes.
  for (const holds of [true, false])
    kept.keep(
      key("/two"),
      plan(1),
      { ...none, reads: [[0, String(holds)]], looks: [{ holds: () => holds, changedMs: 0 }] },
      0,
    );
  expect([
    kept.recall(key("/two"), ["false"], 0),
    kept.recall(key("/two"), ["true"], 0) === undefined,
  ]).toEqual([undefined, false]);
  expect([kept.recall(key("/299"), [], 20_000), kept.recall(key("/299"), [], 1) === undefined]).toEqual([
    undefined,
    false,
  ]);
});

test("a disk that is slow is asked off the main thread for a while; a pause now and then is no such disk", () => {
  let [now, takes] = [0, 0];
  const look = {
    changedMs: 0,
    holds() {
      now += takes;
      return true;
    },
  };
  const kept = new KeptAnswers(() => now);
  const key: RequestKey = {
    method: "GET",
    target: "/a",
    strippedPrefix: undefined,
    mayPass: false,
    isSecure: false,
  };
  const plan: ReadyPlan = {
    kind: "response",
    status: 200,
    fields: Fields.NONE,
    body: { kind: "none" },
    file: undefined,
    reason: { code: "exact-file" },
  };
  kept.keep(key, plan, { reads: [], looks: [look], ownBytes: 0 }, 0);
  const answered = (count: number, everyNth: number): number =>
    Array.from({ length: count }, (_, i) => {
      takes = i % everyNth === 0 ? 20 : 0.01;
      return kept.recall(key, [], 100) !== undefined;
    }).filter(Boolean).length;
  expect(answered(2000, 40)).toBe(2000);
  expect(answered(2000, 1)).toBeLessThan(12);
  expect([kept.recall(key, [], 4000), kept.recall(key, [], 6000) !== undefined]).toEqual([undefined, true]);
});

test("a key that was met before is known, and one that was not hardly ever", () => {
  const recent = new RecentKeys();
  const keys = Array.from({ length: 50_000 }, (_, i) => `/records/${i}.html`);
  const early = keys.filter((key) => recent.add(key)).length;
  expect(early / keys.length).toBeLessThan(0.01);
  expect(keys.every((key) => recent.add(key))).toBe(true);
  // After as many others as are noted at once it is still known.
  for (let i = 0; i < 50_000; i++) recent.add(`/few/${i}`);
  expect(keys.every((key) => recent.add(key))).toBe(true);
  // After very many others it is forgotten.
  for (let i = 0; i < 300_000; i++) recent.add(`/other/${i}`);
  expect(keys.filter((key) => recent.add(key)).length / keys.length).toBeLessThan(0.15);
});
