import { readdirSync } from "node:fs";
import { createServer, get } from "node:http";
import { connect as connectHttp2, constants, createServer as createHttp2 } from "node:http2";
import { type AddressInfo, connect } from "node:net";
import { setTimeout as wait } from "node:timers/promises";
import { afterEach, describe, expect, test, vi } from "vitest";
import { deliver } from "../src/adapters/deliver.js";
import { readPlan } from "../src/adapters/in-process.js";
import { formatLogLine, nodeHandler, type ResponseRecord, startServer } from "../src/adapters/node.js";
import type { Outgoing } from "../src/adapters/node-messages.js";
import { webHandler } from "../src/adapters/web.js";
import {
  type FileSource,
  memorySource,
  type OpenedFile,
  type ResponsePlan,
  type Site,
} from "../src/index.js";
import { openSite } from "./counting-source.js";
import { ask, makeTree } from "./helpers.js";

const running: (() => void)[] = [];
afterEach(() => {
  for (const stop of running.splice(0)) stop();
});

/** A source whose files change what they read: an answer for each call, by its number. */
function reading(
  tree: Record<string, string>,
  read: (call: number, bytes: () => Promise<Uint8Array>) => Promise<Uint8Array>,
): FileSource {
  const source = memorySource(tree);
  return {
    ...source,
    async open(path) {
      const found = await source.open(path);
      if (found.kind !== "file" || path.startsWith("error")) return found;
      let call = 0;
      const file: OpenedFile = {
        ...found.file,
        read: (offset, length) => read(++call, () => found.file.read(offset, length)),
      };
      return { kind: "file", file };
    },
  };
}

const shorter = (call: number, bytes: () => Promise<Uint8Array>, from = 1): Promise<Uint8Array> =>
  bytes().then((all) => (call >= from ? all.subarray(0, -1) : all));
const lost = (): Promise<never> => Promise.reject(new Error("EIO"));

async function serve(
  site: Site,
): Promise<{ url: string; records: ResponseRecord[]; targets: (string | undefined)[] }> {
  const records: ResponseRecord[] = [];
  const targets: (string | undefined)[] = [];
  const server = createServer(nodeHandler(site, { onResponse: (record) => records.push(record) })).on(
    "request",
    ({ url }) => targets.push(url),
  );
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  running.push(() => server.close().closeAllConnections());
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, records, targets };
}

/** What a client gets: the status and the bytes, or how the connection ended. */
function receive(url: string): Promise<string> {
  return new Promise((resolve) => {
    get(url, { agent: false }, (response) => {
      let bytes = 0;
      response.on("data", (chunk: Buffer) => {
        bytes += chunk.length;
      });
      response.on("close", () =>
        resolve(`${response.statusCode} ${bytes}${response.complete ? "" : " cut off"}`),
      );
      response.on("error", () => {});
    }).on("error", () => resolve("no answer"));
  });
}

const SMALL = "s".repeat(1000);
const LARGE = "l".repeat(300_000);
const HUGE = "h".repeat(3_000_000);

describe("a body that becomes shorter, or cannot be read, is never sent as if it were whole", () => {
  const ROWS: [
    sentence: string,
    body: string,
    read: (call: number, bytes: () => Promise<Uint8Array>) => Promise<Uint8Array>,
    overHttp: string,
    asPlan: string,
    asFetch: string,
  ][] = [
    [
      "a small one that is shorter",
      SMALL,
      (call, bytes) => shorter(call, bytes),
      "500 9",
      "The file became shorter while it was read.",
      "500 error    ",
    ],
    ["a small one whose device fails", SMALL, lost, "500 9", "EIO", "500 error    "],
    [
      "a large one that is shorter at once",
      LARGE,
      (call, bytes) => shorter(call, bytes),
      "500 9",
      "The file became shorter while it was read.",
      "500 error    ",
    ],
    [
      "a large one that is shorter later",
      HUGE,
      (call, bytes) => wait(call === 2 ? 50 : 0).then(() => shorter(call, bytes, 2)),
      "200 40960 cut off file-shortened",
      "",
      "The file became shorter while it was sent.",
    ],
    ["a large one whose device fails", LARGE, lost, "500 9", "EIO", "500 error    "],
    [
      "a large one whose device fails later",
      HUGE,
      (call, bytes) => (call < 2 ? bytes() : wait(50).then(lost)),
      "200 40960 cut off read-failed",
      "",
      "EIO",
    ],
    [
      "one whose source throws at once",
      LARGE,
      () => {
        throw new Error("no such device");
      },
      "500 9",
      "no such device",
      "500 error    ",
    ],
  ];
  test.each(ROWS)("%s", async (_sentence, body, read, overHttp, asPlan, asFetch) => {
    const site = await openSite({
      charset: "",
      mounts: [
        {
          source: reading({ "a.bin": body, "error.txt": "error    " }, read),
          errorPages: { 500: "/error.txt" },
        },
      ],
    });
    const { url, records } = await serve(site);
    const received = await receive(`${url}/a.bin`);
    await expect.poll(() => records.length).toBe(1);
    const { status, complete, bytes, cutOff } = records[0]!.delivery;
    expect(`${received}${cutOff === undefined ? "" : ` ${cutOff}`}`).toBe(overHttp);
    expect([status, complete, bytes]).toEqual([
      Number(overHttp.slice(0, 3)),
      !overHttp.includes("cut off"),
      Number(overHttp.split(" ")[1]),
    ]);

    const answer = await site.respond({ method: "GET", target: "/a.bin", headers: {} });
    const plan = answer.kind === "response" ? readPlan(answer).then(() => "") : Promise.resolve("none");
    expect(await plan.catch((error: Error) => error.message)).toBe(asPlan);

    const response = await webHandler(site)(new Request("http://larkholm.invalid/a.bin"));
    const text = await response!.text().then(
      (all) => `${response!.status} ${all}`,
      (error: Error) => error.message,
    );
    expect(text).toBe(asFetch);
  });

  test("where the error page cannot be read either, an error without a body is left", async () => {
    const source = memorySource({ "a.bin": SMALL, "page.txt": "error    " });
    const failing: FileSource = {
      ...source,
      async open(path) {
        const found = await source.open(path);
        return found.kind === "file" ? { kind: "file", file: { ...found.file, read: lost } } : found;
      },
    };
    const site = await openSite({
      charset: "",
      mounts: [{ source: failing, validators: "metadata", errorPages: { 500: "/page.txt" } }],
    });
    const response = (await webHandler(site)(new Request("http://larkholm.invalid/a.bin")))!;
    expect([response.status, await response.text(), [...response.headers]]).toEqual([500, "", []]);
    const { url, records } = await serve(site);
    expect(await receive(`${url}/a.bin`)).toBe("500 0");
    await expect.poll(() => records.map(({ delivery }) => delivery.status)).toEqual([500]);
  });

  test("parts of several ranges arrive whole, and in their order", async () => {
    const text = Array.from({ length: 300_000 }, (_, i) => String.fromCharCode(97 + (i % 26))).join("");
    const site = await openSite({ mounts: [{ source: memorySource({ "a.txt": text }) }] });
    const { url } = await serve(site);
    const headers = { range: "bytes=0-99999,150000-299999" };
    const expected = (await ask(site, "GET /a.txt", headers)).body;
    expect(await (await fetch(`${url}/a.txt`, { headers })).text()).toBe(expected);
    expect(
      await (await webHandler(site)(new Request("http://larkholm.invalid/a.txt", { headers })))!.text(),
    ).toBe(expected);
    expect(expected).toContain(text.slice(150_000, 300_000));
  });

  test("a download over HTTP/2 that is cancelled ends, is told, and gives its descriptor back", async () => {
    const tree = await makeTree({ "large.bin": Buffer.alloc(20_000_000, "x") });
    const site = await openSite({ mounts: [{ folder: tree.root }] });
    const records: ResponseRecord[] = [];
    const server = createHttp2(nodeHandler(site, { onResponse: (record) => records.push(record) }));
    await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
    const session = connectHttp2(`http://127.0.0.1:${(server.address() as AddressInfo).port}`);
    await new Promise((done) => session.request({ ":path": "/none" }).on("close", done).resume());
    records.length = 0;
    const before = readdirSync("/proc/self/fd").length;
    const cancel = (when: "head" | "data" | "stalled"): Promise<void> =>
      new Promise((done) => {
        const stream = session.request({ ":path": "/large.bin" });
        stream.on("error", () => {}).on("close", done);
        if (when === "head") stream.on("response", () => stream.close(constants.NGHTTP2_CANCEL));
        else if (when === "data") stream.once("data", () => stream.close(constants.NGHTTP2_CANCEL));
        // It takes nothing: the server waits for the window.
        else void wait(200).then(() => stream.close(constants.NGHTTP2_CANCEL));
      });
    for (const when of ["head", "data", "stalled"] as const) await cancel(when);
    await expect
      .poll(() => records.map(({ delivery: { complete, cutOff } }) => `${complete} ${cutOff}`))
      .toEqual(Array(3).fill("false client-left"));
    await expect.poll(() => readdirSync("/proc/self/fd").length).toBe(before);
    const whole = session.request({ ":path": "/large.bin" });
    let bytes = 0;
    await new Promise((done) =>
      whole
        .on("data", (chunk: Buffer) => {
          bytes += chunk.length;
        })
        .on("close", done),
    );
    await expect
      .poll(() => records.at(-1)!.delivery)
      .toEqual({ status: 200, bytes: 20_000_000, complete: true });
    expect(formatLogLine("common", records.at(-1)!)).toContain('"GET /large.bin HTTP/2.0" 200 20000000 ');
    expect(bytes).toBe(20_000_000);
    session.close();
    server.close();
    await tree.remove();
  });

  test.each([2, 40, 1500])(
    "%d requests at once on one connection, which then ends: one file is open at a time, none at the end, and every one is told",
    async (count) => {
      const tree = await makeTree({ "large.bin": Buffer.alloc(5_000_000, "x") });
      const site = await openSite({ mounts: [{ folder: tree.root }] });
      const { url, records, targets } = await serve(site);
      const client = connect(Number(new URL(url).port), "127.0.0.1").on("error", () => {});
      await new Promise((done) => client.once("connect", done));
      await wait(20);
      const before = readdirSync("/proc/self/fd").length;
      client.write(
        Array.from({ length: count }, (_, i) => `GET /large.bin?${i} HTTP/1.1\r\nHost: x\r\n\r\n`).join(""),
      );
      await wait(150);
      expect(readdirSync("/proc/self/fd").length - before).toBeLessThanOrEqual(1);
      client.destroy();
      const told = (): string[] =>
        records.map(
          ({ request, delivery: { complete, cutOff }, client: { address }, httpVersion }) =>
            `${request.target} ${complete} ${cutOff} ${address} ${httpVersion}`,
        );
      await expect.poll(told).toEqual(targets.map((target) => `${target} false client-left 127.0.0.1 1.1`));
      expect(targets.length).toBeGreaterThan(count === 1500 ? 40 : count - 1);
      // The connection's own two are gone as well.
      await expect.poll(() => readdirSync("/proc/self/fd").length).toBe(before - 2);
      await tree.remove();
    },
  );

  test("many at once are answered all, in their order", async () => {
    const paths = Array.from({ length: 200 }, (_, i) =>
      i % 3 === 0 ? "/a.txt" : i % 3 === 1 ? "/large.txt" : "/none",
    );
    const site = await openSite({
      mounts: [{ source: memorySource({ "a.txt": "small", "large.txt": "l".repeat(100_000) }) }],
    });
    const { url, records } = await serve(site);
    const client = connect(Number(new URL(url).port), "127.0.0.1");
    let received = "";
    client.on("data", (chunk) => {
      received += chunk.toString("latin1");
    });
    client.write(
      paths
        .map(
          (path, i) => `GET ${path} HTTP/1.1\r\nHost: x\r\n${i === 199 ? "Connection: close\r\n" : ""}\r\n`,
        )
        .join(""),
    );
    await new Promise((done) => client.once("close", done));
    expect(
      [...received.matchAll(/HTTP\/1\.1 (\d+)[\s\S]*?Content-Length: (\d+)/g)].map(
        ([, status, length]) => `${status} ${length}`,
      ),
    ).toEqual(
      paths.map((path) => (path === "/a.txt" ? "200 5" : path === "/none" ? "404 48" : "200 100000")),
    );
    expect(records.map(({ request }) => request.target)).toEqual(paths);
  });

  test("many at once through two sites in a chain, and the first again behind them: none waits for another", async () => {
    const [first, second] = await Promise.all(
      ["first", "second"].map(async (name) =>
        nodeHandler(
          await openSite({
            mounts: [
              {
                source: memorySource({ [`${name}.txt`]: name, "404.html": "gone" }),
                errorPages: { 404: "/404.html" },
              },
            ],
          }),
        ),
      ),
    );
    // Between the two lies a handler that takes its time.
    const server = createServer((request, response) =>
      first!(request, response, () =>
        setTimeout(
          () => second!(request, response, () => first!(request, response)),
          request.url === "/second.txt" ? 20 : 1,
        ),
      ),
    );
    await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
    const client = connect((server.address() as AddressInfo).port, "127.0.0.1");
    let received = "";
    client.on("data", (chunk) => {
      received += chunk.toString("latin1");
    });
    const paths = Array.from({ length: 30 }, (_, i) => ["/second.txt", "/first.txt", "/none"][i % 3]!);
    client.write(
      paths
        .map((path, i) => `GET ${path} HTTP/1.1\r\nHost: x\r\n${i === 29 ? "Connection: close\r\n" : ""}\r\n`)
        .join(""),
    );
    await new Promise((done) => client.once("close", done));
    server.close();
    expect([...received.matchAll(/\r\n\r\n(first|second|gone)/g)].map(([, body]) => body)).toEqual(
      paths.map((path) => (path === "/none" ? "gone" : path.slice(1, -4))),
    );
  });

  test("many streams at once on one HTTP/2 session: some are under way, and all are answered", async () => {
    let [open, most] = [0, 0];
    const source = memorySource({ "a.bin": "x".repeat(200_000) });
    const counted: FileSource = {
      ...source,
      async open(path) {
        const found = await source.open(path);
        if (found.kind !== "file") return found;
        most = Math.max(most, ++open);
        await wait(1);
        return { kind: "file", file: { ...found.file, close: () => void open-- } };
      },
    };
    const site = await openSite({ mounts: [{ source: counted }] });
    const server = createHttp2(nodeHandler(site));
    await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
    const session = connectHttp2(`http://127.0.0.1:${(server.address() as AddressInfo).port}`);
    const sizes = await Promise.all(
      Array.from(
        { length: 90 },
        () =>
          new Promise<number>((done) => {
            let bytes = 0;
            const stream = session.request({ ":path": "/a.bin" });
            stream
              .on("data", (chunk: Buffer) => {
                bytes += chunk.length;
              })
              .on("close", () => done(bytes));
          }),
      ),
    );
    expect([new Set(sizes), open, most <= 32, most > 1]).toEqual([new Set([200_000]), 0, true, true]);
    session.close();
    server.close();
  });

  test("an error that cannot be told, and one that a chain's next handler gets", async () => {
    const site = await openSite({ mounts: [{ source: memorySource({ "a.txt": "a" }) }] });
    const broken: Site = { ...site, respond: () => Promise.reject(new Error("broken")) };
    const told = await new Promise<unknown>((resolve) => {
      const server = createServer((request, response) =>
        nodeHandler(broken)(request, response, (error) => {
          resolve(error);
          response.end();
        }),
      );
      server.listen(
        0,
        "127.0.0.1",
        () =>
          void receive(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`).then(() =>
            server.close(),
          ),
      );
    });
    expect(told).toEqual(new Error("broken"));
    expect(await receive((await serve(broken)).url)).toBe("no answer");
  });
});

describe("a server of its own", () => {
  test("cuts off in time who does not read, and lets the others finish", async () => {
    const site = await openSite({
      mounts: [{ source: memorySource({ "large.bin": "x".repeat(30_000_000), "a.txt": "a" }) }],
    });
    const records: ResponseRecord[] = [];
    const server = await startServer(site, { port: 0, onResponse: (record) => records.push(record) });
    const stalled = connect(server.port, "127.0.0.1", () =>
      stalled.write("GET /large.bin HTTP/1.1\r\nHost: x\r\n\r\n"),
    );
    await new Promise((resolve) => stalled.once("readable", resolve));
    const idle = connect(server.port, "127.0.0.1");
    await new Promise((resolve) => idle.once("connect", resolve));
    expect(await (await fetch(`${server.url}a.txt`)).text()).toBe("a");
    await server.close(0.3);
    await expect
      .poll(() => records.map(({ delivery: { complete, cutOff } }) => `${complete} ${cutOff}`))
      .toEqual(["true undefined", "false server-stopped"]);
    stalled.destroy();
    idle.destroy();
  });

  test("cuts off who takes nothing, tells that apart, and goes on with the others", async () => {
    const site = await openSite({
      mounts: [{ source: memorySource({ "large.bin": "x".repeat(30_000_000), "a.txt": "a" }) }],
    });
    const records: ResponseRecord[] = [];
    const server = await startServer(site, {
      port: 0,
      stalledAfterSeconds: 1,
      onResponse: (record) => records.push(record),
    });
    // What is made of the file for its first answer has no client that waits for it.
    await site.respond({ method: "HEAD", target: "/large.bin", headers: {} });
    const stalled = connect(server.port, "127.0.0.1", () =>
      stalled.write("GET /large.bin HTTP/1.1\r\nHost: x\r\n\r\n"),
    ).on("error", () => {});
    await expect
      .poll(() => records.map(({ delivery: { complete, cutOff } }) => `${complete} ${cutOff}`))
      .toEqual(["false client-stalled"]);
    expect((await (await fetch(`${server.url}large.bin`)).arrayBuffer()).byteLength).toBe(30_000_000);
    stalled.destroy();
    await server.close();
  });

  test("a client that takes a byte now and then must have taken a whole piece in time", async () => {
    vi.useFakeTimers({ toFake: ["setInterval", "clearInterval", "performance"] });
    let destroyed = false;
    const events: (() => void)[] = [];
    const response: Outgoing = {
      get destroyed() {
        return destroyed;
      },
      headersSent: false,
      writableFinished: false,
      reusesMemory: false,
      tellEarly: () => {},
      writeHead: () => {},
      write: () => {},
      end: () => {},
      destroy: () => {
        destroyed = true;
        for (const tell of events) tell();
      },
      onceClosed: (listener) => void events.push(listener),
      // Something moves all the time.
      onStalled: () => {},
    };
    const site = await openSite({ mounts: [{ source: memorySource({ "large.bin": "x".repeat(600_000) }) }] });
    const request = { method: "GET", target: "/large.bin", headers: {} };
    const plan = (await site.respond(request)) as ResponsePlan;
    const delivered = deliver(response, plan, { request, responder: site, stalledAfterMs: 1000 });
    await vi.advanceTimersByTimeAsync(78_000);
    expect(destroyed).toBe(false);
    await vi.advanceTimersByTimeAsync(10_000);
    vi.useRealTimers();
    expect(await delivered).toEqual({
      status: 200,
      bytes: 81_920,
      complete: false,
      cutOff: "client-stalled",
    });
  });

  test("stops at once when nothing is under way; says where it listens", async () => {
    const site = await openSite({ mounts: [{ source: memorySource({}) }] });
    const server = await startServer(site, { port: 0, host: "::1" });
    expect(server.url).toBe(`http://[::1]:${server.port}/`);
    await fetch(server.url);
    // Longer than the test may take.
    await server.close(60);
  });

  test.each<[string, object, RegExp]>([
    [
      "a port beyond all ports",
      { port: 65_536 },
      /^port: found 65536; a port is a whole number from 0 to 65535/,
    ],
    ["half a port", { port: 1.5 }, /^port: found 1\.5;/],
    ["a negative one", { port: -1 }, /^port: found -1;/],
    ["a port in a text", { port: "8080" }, /^port: found "8080", a text; write the number 8080\.$/],
    ["a text that begins with a port", { port: "8080x" }, /^port: found "8080x"; a port is a whole number/],
    ["no port at all", { port: null }, /^port: found null; a port is a whole number/],
    [
      "a socket without a path",
      { socket: "" },
      /^socket: found ""; write a path, such as "\/run\/site\.sock"\.$/,
    ],
    ["a socket that is no text", { socket: 7 }, /^socket: found 7; write a path/],
    [
      "an address of another machine",
      { port: 0, host: "192.0.2.1" },
      /^192\.0\.2\.1 is not an address of this machine; write 127\.0\.0\.1/,
    ],
    [
      "a name that nobody knows",
      { port: 0, host: "larkholm.invalid" },
      /^The host name "larkholm\.invalid" is unknown; write 127\.0\.0\.1/,
    ],
  ])("%s", async (_sentence, options, message) => {
    const site = await openSite({ mounts: [{ source: memorySource({}) }] });
    await expect(startServer(site, options)).rejects.toThrow(message);
  });

  test("a port that is taken", async () => {
    const site = await openSite({ mounts: [{ source: memorySource({}) }] });
    const first = await startServer(site, { port: 0 });
    await expect(startServer(site, { port: first.port })).rejects.toThrow(
      `Port ${first.port} on 127.0.0.1 is in use by another program; stop that one`,
    );
    await first.close();
  });

  test("what is read ahead for one client is bounded, and its buffers are used again", async () => {
    const site = await openSite({
      mounts: [{ source: memorySource({ "large.bin": "x".repeat(12_000_000) }) }],
    });
    const { url } = await serve(site);
    for (let i = 0; i < 3; i++)
      expect((await (await fetch(`${url}/large.bin`)).arrayBuffer()).byteLength).toBe(12_000_000);
    expect(site.memory.metrics().find(({ name }) => name === "buffers to read ahead into")).toMatchObject({
      bound: 32,
      unit: "entries",
      entries: expect.toSatisfy((count: number) => count >= 1 && count <= 2) as number,
    });
  });
});
