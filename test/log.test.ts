import { once } from "node:events";
import { readdirSync, readFileSync, readlinkSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import { beforeAll, describe, expect, test } from "vitest";
import { formatMetrics, Metrics } from "../src/adapters/metrics.js";
import {
  formatLogHead,
  formatLogLine,
  type LineForm,
  type LineOptions,
  nodeHandler,
  type ResponseRecord,
  startServer,
} from "../src/adapters/node.js";
import { describeReason } from "../src/core/explain/reason.js";
import type { MemoryMetric } from "../src/core/memory/memory.js";
import { memorySource, openSite, readPlan, type Site } from "../src/index.js";
import { nameAnswer, nameFile } from "../src/site/file-names.js";
import { makeTemporaryTree } from "../src/testing/tree.js";

// A line of the log says which file answered, or why none did, in each form.
const NOW = new Date("2026-09-21T06:02:03.456Z");
let site: Site;
beforeAll(async () => {
  site = await openSite({
    mounts: [
      {
        source: memorySource({
          "index.html": "<title>Larkholm</title>",
          "guide/index.html": "guide",
          "records/a.csv": "a",
        }),
        appShell: { file: "/index.html", except: ["/api"] },
        areas: { "/records": { listing: true } },
        earlierReleases: [memorySource({ "assets/app-5f3a91bc.js": "then" })],
      },
      { at: "/alone", source: memorySource({ "a.txt": "a" }), whenMissing: "pass" },
    ],
    moved: { "/birds/": "/guide/" },
  });
});

async function record(
  target: string,
  headers: Record<string, string> = {},
  more: Partial<ResponseRecord> = {},
): Promise<ResponseRecord> {
  const request = { method: "GET", target, headers, mayPass: target.startsWith("/alone") };
  const answer = await site.respond(request);
  const bytes = answer.kind === "response" ? (await readPlan(answer)).length : 0;
  const status = answer.kind === "response" ? answer.status : 404;
  return {
    request,
    answer,
    delivery: { status, bytes, complete: true },
    milliseconds: 1.23456,
    remoteAddress: "10.0.0.1",
    client: { address: "192.0.2.1", scheme: "https", host: "larkholm.example" },
    httpVersion: "1.1",
    why: describeReason(answer.reason),
    ...more,
  };
}
const line = async (
  form: LineForm,
  given: Promise<ResponseRecord>,
  options: LineOptions = {},
): Promise<string> => formatLogLine(form, await given, { now: NOW, mounts: site.mounts, ...options });

describe("what a line says of the answer", () => {
  test.each<[string, string, Record<string, string>, string]>([
    ["a file", "/guide/", {}, "memory/guide/index.html"],
    [
      "the app shell, and why",
      "/sightings/42",
      { "sec-fetch-mode": "navigate" },
      "memory/index.html (the app shell: a navigation that no file answers)",
    ],
    [
      "an earlier release, and which",
      "/assets/app-5f3a91bc.js",
      {},
      "memory/assets/app-5f3a91bc.js (only the earlier release memory has it)",
    ],
    ["a listing", "/records/", {}, "the listing of the directory"],
    ["a slash that was missing", "/guide", {}, "redirect to ./guide/ (a slash was missing)"],
    [
      "an address that moved",
      "/birds/tern",
      {},
      'redirect to ../guide/tern (moved[\\"/birds/\\"] redirects it)',
    ],
    [
      "nothing",
      "/none.js",
      {},
      "none: no such file; the app shell was not used: the name has a file extension",
    ],
    ["the application's", "/alone/none", {}, "passed on: no such file"],
  ])("%s", async (_title, target, headers, outcome) => {
    expect(await line("common", record(target, headers))).toContain(` "${outcome}`);
  });

  test("a copy that is current, and an answer that was cut off", async () => {
    const { answer } = await record("/guide/");
    const tag = answer.kind === "response" ? answer.fields.get("etag")! : "";
    expect(await line("common", record("/guide/", { "if-none-match": tag }))).toContain(
      '304 - "memory/guide/index.html (the client\'s copy is current)"',
    );
    const cut = { delivery: { status: 200, bytes: 3, complete: false, cutOff: "client-stalled" as const } };
    expect(await line("common", record("/guide/", {}, cut))).toContain(
      '200 3 "memory/guide/index.html (cut off: the client accepted no bytes for too long)"',
    );
  });
});

test("a file that only an earlier release has is named where it lies", () => {
  const mounts = [
    { at: "/", source: "dist" },
    { at: "/app", source: "app/dist" },
  ];
  const of = (code: string, subject?: string) =>
    nameAnswer(mounts, { kind: "response", file: "app/assets/a.js", reason: { code, subject } } as never);
  expect([of("earlier-release", "../releases/41/"), of("exact-file")]).toEqual([
    "../releases/41/assets/a.js",
    "app/dist/assets/a.js",
  ]);
});

// U+009B begins a command to a terminal as Escape and a bracket do; U+202E turns a line around.
test.each<LineForm>(["common", "combined", "extended", "json"])(
  "nothing that a client writes does anything to a terminal: %s",
  async (form) => {
    const odd = "a\u009b31mb\u202e\u0007\u{e0001}c";
    const text = await line(form, record(`/guide/?${odd}`, { "user-agent": odd, referer: odd }, { id: odd }));
    expect(text).not.toMatch(/[\p{Cc}\p{Cf}]/u);
    if (form === "json") expect(JSON.parse(text)).toMatchObject({ target: `/guide/?${odd}`, id: odd });
  },
);

test("each form, with what a client wrote escaped", async () => {
  const headers = { "user-agent": 'A "quoted" \\ name', referer: "https://larkholm.example/\u0007" };
  const given = (): Promise<ResponseRecord> => record("/guide/?from=mail&to=a b", headers, { id: "ring-7" });
  const start = '192.0.2.1 - - [21/Sep/2026:06:02:03 +0000] "GET /guide/?from=mail&to=a b HTTP/1.1" 200 5';
  expect(await line("common", given())).toBe(`${start} "memory/guide/index.html" "ring-7"`);
  expect(await line("combined", given())).toBe(
    String.raw`${start} "https://larkholm.example/\\u{7}" "A \"quoted\" \\ name" "memory/guide/index.html" "ring-7"`,
  );
  expect(await line("extended", given())).toBe(
    String.raw`2026-09-21 06:02:03 192.0.2.1 GET /guide/ from=mail&to=a+b HTTP/1.1 larkholm.example 200 5 0.001 "A ""quoted"" \ name" "https://larkholm.example/\u{7}" "memory/guide/index.html" ring-7`,
  );
  expect(JSON.parse(await line("json", given()))).toEqual({
    level: "info",
    time: NOW.toISOString(),
    client: "192.0.2.1",
    scheme: "https",
    host: "larkholm.example",
    method: "GET",
    target: "/guide/?from=mail&to=a b",
    httpVersion: "1.1",
    status: 200,
    mediaType: "text/html",
    bytes: 5,
    milliseconds: 1.235,
    file: "memory/guide/index.html",
    why: "the default document of the directory",
    id: "ring-7",
    complete: true,
  });
  expect(JSON.parse(await line("json", record("/alone/none")))).toMatchObject({
    status: 404,
    mediaType: "-",
    why: expect.stringContaining("passed on"),
  });
  // Without what is unknown, and without what the query says.
  const bare = (): Promise<ResponseRecord> =>
    record("/alone/none?secret", {}, { client: { address: undefined, scheme: "http", host: undefined } });
  expect(await line("combined", bare(), { redactQuery: true })).toMatch(
    /^- - - \[.*\] "GET \/alone\/none\?… HTTP\/1\.1" 404 - "-" "-" "passed on: [^"]*"$/,
  );
  expect(await line("extended", bare(), { redactQuery: true })).toMatch(
    / - GET \/alone\/none … HTTP\/1\.1 - 404 0 0\.001 - - "passed on: [^"]*" -$/,
  );
  expect(formatLogHead("extended", NOW)).toMatch(
    /^#Version: 1\.0\n#Software: epistyle\n#Date: 2026-09-21 06:02:03\n#Fields: date time c-ip .* x-request-id\n$/,
  );
  expect([formatLogHead("common"), formatLogHead("json")]).toEqual(["", ""]);
});

test.each<[string, string]>([
  ["index.html", "site/public/index.html"],
  ["docs/a.html", "docs/a.html"],
  ["docs/deep/a.html", "inner/a.html"],
  ["docsx/a.html", "site/public/docsx/a.html"],
  ["docs", "site/public/docs"],
])("a file is named as the configuration names it: %s", (file, name) => {
  const mounts = [
    { at: "/", source: "site/public/" },
    { at: "/docs", source: "docs" },
    { at: "/docs/deep", source: "inner" },
  ];
  expect([nameFile(mounts, file), nameFile(mounts.slice(1), "other.txt")]).toEqual([name, "other.txt"]);
});

test("metrics count an answer by what it was, and its time in seconds", async () => {
  const metrics = new Metrics();
  const count = async (
    target: string,
    headers: Record<string, string> = {},
    more: Partial<ResponseRecord> = {},
  ): Promise<void> => metrics.count(await record(target, headers, more));
  await count("/guide/", {}, { milliseconds: 20 });
  await count("/guide/", { range: "bytes=0-1" }, { milliseconds: 3_600_000 });
  await count("/guide/", { "if-none-match": "*" });
  await count("/sightings/42", { "sec-fetch-mode": "navigate" });
  for (const target of ["/assets/app-5f3a91bc.js", "/records/", "/birds/tern", "/none.js", "/alone/none"])
    await count(target);
  await count("/guide/", {}, { delivery: { status: 200, bytes: 3, complete: false, cutOff: "client-left" } });
  const { answers, cuts, times, seconds, bytes, startedAt } = metrics.snapshot(site);
  const one = [
    "app shell 200",
    "earlier release 200",
    "error 404",
    "listing 200",
    "not modified 304",
    "part 206",
    "passed on 404",
    "redirect 301",
  ].map((name) => [name, 1]);
  expect(
    answers.map(([labels, n]) => [labels.replace(/status="(\d+)",kind="(.*)"/, "$2 $1"), n]).sort(),
  ).toEqual([...one, ["file 200", 2]].sort());
  expect([cuts, bytes > 100, times.reduce((sum, n) => sum + n), times.at(-1)]).toEqual([
    [['cause="client-left"', 1]],
    true,
    10,
    1,
  ]);
  expect(seconds).toBeCloseTo(3600.02 + 8 * 0.00123456, 6);
  expect(Math.abs(startedAt - Date.now() / 1000)).toBeLessThan(60);
});

test("metrics of two processes are told as one, to the last character", async () => {
  const [a, b] = [new Metrics(), new Metrics()];
  for (const [milliseconds, status] of [
    [1, 200],
    [1.5, 299],
    [10, 300],
    [30_000, 399],
    [30_001, 400],
    [0, 500],
  ] as const)
    for (const one of [a, b].slice(status === 500 ? 1 : 0))
      one.count(
        await record("/guide/", {}, { milliseconds, delivery: { status, bytes: 10, complete: true } }),
      );
  a.count(
    await record(
      "/guide/",
      {},
      { milliseconds: 1, delivery: { status: 200, bytes: 3, complete: false, cutOff: "client-left" } },
    ),
  );
  const kept = (used: number) => [
    { name: 'a "store"\\', used, entries: 1, bound: 100, unit: "bytes" } as unknown as MemoryMetric,
  ];
  const snapshots = [a, b].map((one, i) => ({
    ...one.snapshot(site),
    kept: kept(40 + i),
    residentBytes: 1000,
    descriptors: 20 + i,
    startedAt: 1_790_000_000.5 + i,
  }));
  await expect(formatMetrics(snapshots)).toMatchFileSnapshot("fixtures/golden/metrics.txt");
  const untold = formatMetrics([{ ...snapshots[0]!, descriptors: undefined }]);
  expect(untold).not.toContain("open_fds");
});

const listOpenFiles = (): string[] =>
  readdirSync("/proc/self/fd").flatMap((fd) => {
    try {
      return [readlinkSync(`/proc/self/fd/${fd}`)];
    } catch {
      return [];
    }
  });

describe("a log that is asked for in code", () => {
  const open = () => openSite({ mounts: [{ source: memorySource({ "index.html": "<h1>Larkholm" }) }] });
  test("of a server, and of a handler, each line in its form; it is whole once the server has stopped", async () => {
    await using disk = await makeTemporaryTree({ "logs/": "" });
    const file = join(disk.folder, "logs/site.log");
    const server = await startServer(await open(), {
      port: 0,
      log: { form: "json", file, redactQuery: true },
    });
    await fetch(`${server.url}?ring=LK3301`);
    await fetch(`${server.url}none`);
    await server.close();
    const lines = readFileSync(file, "utf8").trim().split("\n");
    expect(lines.map((line) => JSON.parse(line)).map(({ status, target }) => [status, target])).toEqual([
      [200, "/?…"],
      [404, "/none"],
    ]);
    const told: number[] = [];
    const other = join(disk.folder, "logs/other.log");
    const handler = nodeHandler(await open(), {
      log: { file: other },
      onResponse: ({ delivery }) => void told.push(delivery.status),
    });
    const http = createServer(handler).listen(0, "127.0.0.1");
    await once(http, "listening");
    await (await fetch(`http://127.0.0.1:${(http.address() as AddressInfo).port}/`)).text();
    await expect.poll(() => readFileSync(other, "utf8")).toMatch(/"GET \/ HTTP\/1\.1" 200 /);
    expect(told).toEqual([200]);
    http.close();
  });

  test.each<[string, unknown, string]>([
    ["a form that there is not", "jsn", 'startServer: found the log form "jsn"; write "pretty", "common", '],
    ["no form at all", 3, 'startServer: found the option "log" as 3; write "pretty", '],
    [
      "a file that cannot be opened",
      { file: "no/such/site.log" },
      "The log file no/such/site.log cannot be opened",
    ],
    [
      "a key that there is not",
      { forms: "json" },
      'startServer: log: found the option "forms"; write "form".',
    ],
    ["a file that is none", { file: 5 }, 'startServer: log: found file: 5; write a path such as "site.log".'],
    ["a word for a switch", { redactQuery: "yes" }, "startServer: log: found redactQuery: "],
  ])("%s is told before the server starts", async (_what, log, message) => {
    await expect(startServer(await open(), { port: 0, log: log as "json" })).rejects.toThrow(message);
  });

  test("a server that cannot start keeps neither its log nor its metrics open", async () => {
    await using disk = await makeTemporaryTree({ "logs/": "", "cert.pem": "none" });
    const taken = createServer().listen(0, "127.0.0.1");
    await once(taken, "listening");
    const { port } = taken.address() as AddressInfo;
    const free = createServer().listen(0, "127.0.0.1");
    await once(free, "listening");
    const metrics = { port: (free.address() as AddressInfo).port };
    await new Promise((done) => free.close(done));
    const pem = join(disk.folder, "cert.pem");
    for (const options of [
      { port, metrics },
      { port: 0, metrics: { port } },
      { port: 0, tls: { cert: pem, key: pem } },
    ]) {
      const file = join(disk.folder, "logs/site.log");
      await expect(startServer(await open(), { ...options, log: { file } })).rejects.toThrow();
      expect(listOpenFiles()).not.toContain(file);
    }
    // Its own port is free again.
    const again = createServer().listen(metrics.port, "127.0.0.1");
    await once(again, "listening");
    for (const one of [again, taken]) await new Promise((done) => one.close(done));
  });
});
