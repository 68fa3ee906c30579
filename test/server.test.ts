import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { copyFileSync, existsSync, renameSync, writeFileSync } from "node:fs";
import { request as askPlain, type IncomingMessage, type RequestOptions } from "node:http";
import { connect as connectHttp2 } from "node:http2";
import { Agent, request as askTls } from "node:https";
import { connect, type Socket } from "node:net";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { connect as connectTls } from "node:tls";
import { afterAll, afterEach, beforeAll, describe, expect, test } from "vitest";
import { type RunningServer, type ServerOptions, startServer } from "../src/adapters/node.js";
import { memorySource, openSite, type Site } from "../src/index.js";
import { makeTemporaryTree, type TemporaryTree } from "../src/testing/index.js";
import { makeCertificate } from "./helpers.js";

// A server for a machine that is on line: where it listens, how it says how it is, how it stops, its certificate.
let tree: TemporaryTree;
let site: Site;
const running: RunningServer[] = [];
const at = (name: string): string => join(tree.folder, name);

beforeAll(async () => {
  tree = await makeTemporaryTree({
    "public/index.html": "<title>Larkholm</title>",
    "public/large.bin": new Uint8Array(4 * 1024 * 1024),
    "plain.txt": "x",
  });
  site = await openSite({
    mounts: [
      {
        source: memorySource({
          "index.html": "<title>Larkholm</title>",
          "large.bin": new Uint8Array(32 * 1024 * 1024),
        }),
      },
    ],
  });
  for (const name of ["one", "two"]) makeCertificate(at(name), `${name}.larkholm.example`);
});
afterEach(async () => {
  for (const one of running.splice(0)) await one.close(0);
});
afterAll(() => tree.close());

async function start(options: ServerOptions = {}): Promise<RunningServer> {
  const server = await startServer(site, { port: 0, ...options });
  running.push(server);
  return server;
}

/** An HTTP/2 client that asks for much, and resets its connection a moment later. */
function breakOff(port: number, afterMs: number): Promise<void> {
  return new Promise((done) => {
    const socket = connect(port, "127.0.0.1")
      .on("error", () => done())
      .on("close", () => done());
    const secure = connectTls({ socket, ALPNProtocols: ["h2"], rejectUnauthorized: false }).on(
      "error",
      () => {},
    );
    const session = connectHttp2("https://localhost", { createConnection: () => secure }).on(
      "error",
      () => {},
    );
    for (let stream = 0; stream < 50; stream++)
      session.request({ ":path": "/large.bin" }).on("error", () => {});
    session.on("connect", () => setTimeout(() => socket.resetAndDestroy(), afterMs));
    setTimeout(done, 5000).unref();
  });
}

type Told = { status: number; headers: Record<string, unknown>; body: string };
function ask(
  options: RequestOptions & { ca?: string; rejectUnauthorized?: boolean },
  send: typeof askPlain = askPlain,
): Promise<Told> {
  return new Promise((done, failed) => {
    const sent = send(options, (answer) => {
      let body = "";
      answer
        .on("data", (chunk) => (body += chunk))
        .on("end", () => done({ status: answer.statusCode!, headers: answer.headers, body }));
    });
    sent.on("error", failed).end();
  });
}

describe("how it is", () => {
  test("alive and ready, until stopping begins; requests are answered for as long as it drains", async () => {
    const server = await start({ health: "/health" });
    const read = async (path: string, method = "GET"): Promise<Told> =>
      ask({ port: server.port, path, method, agent: false });
    expect(await read("/health/alive")).toMatchObject({
      status: 200,
      body: "alive\n",
      headers: { "cache-control": "no-store", "content-type": "text/plain; charset=utf-8" },
    });
    expect(await read("/health/ready?now", "HEAD")).toMatchObject({ status: 200, body: "" });
    expect(await read("/health/ready", "POST")).toMatchObject({
      status: 405,
      headers: { allow: "GET, HEAD" },
    });
    expect(await read("/health/other")).toMatchObject({ status: 404 });
    const closed = server.close({ drainSeconds: 0.4, graceSeconds: 5 });
    expect([
      (await read("/health/ready")).status,
      (await read("/health/alive")).status,
      (await read("/")).status,
    ]).toEqual([503, 200, 200]);
    await closed;
    await expect(read("/")).rejects.toThrow("ECONNREFUSED");
  });

  test("who asks whether it is ready, and then asks, loses no request while it stops", async () => {
    const server = await start({ health: "/health" });
    const read = async (path: string): Promise<number> =>
      (await ask({ port: server.port, path, agent: false })).status;
    const answered = [0, 0, 0, 0];
    const visitors = answered.map(async (_, one) => {
      for (; (await read("/health/ready")) === 200; answered[one]!++) expect(await read("/")).toBe(200);
    });
    await expect.poll(() => Math.min(...answered)).toBeGreaterThan(3);
    const closed = server.close({ drainSeconds: 3, graceSeconds: 5 });
    await Promise.all([...visitors, closed]);
  });

  test.each([
    ["finished in the time it has", { pauseMs: 200, graceSeconds: 30 }, undefined],
    ["cut off after that, and the record says so", { pauseMs: 60_000, graceSeconds: 0.5 }, "server-stopped"],
  ])("an answer in progress is %s", async (_, { pauseMs, graceSeconds }, cutOff) => {
    const records: (string | undefined)[] = [];
    const server = await start({ onResponse: ({ delivery }) => records.push(delivery.cutOff) });
    const received = new Promise<number>((done) => {
      askPlain({ port: server.port, path: "/large.bin", agent: false }, (answer) => {
        let bytes = 0;
        answer.pause();
        setTimeout(() => answer.resume(), pauseMs).unref();
        answer
          .on("data", (chunk) => (bytes += chunk.length))
          .on("close", () => done(bytes))
          .on("error", () => {});
      }).end();
    });
    await wait(100);
    const [first, second] = [server.close(graceSeconds), server.close(60)];
    if (cutOff === undefined) expect(await received).toBe(32 * 1024 * 1024);
    await Promise.all([first, second]);
    // The client may have all bytes before the server has heard that they are sent.
    await expect.poll(() => records).toEqual([cutOff]);
  });

  test("answers that were handed over and wait to be read arrive whole, though the server stops", async () => {
    const server = await start();
    let begun = 0;
    const read = (index: number): Promise<number> =>
      new Promise((done) => {
        let bytes = 0;
        askPlain({ port: server.port, path: "/large.bin", agent: false }, (answer) => {
          begun++;
          answer.on("data", (chunk) => {
            bytes += chunk.length;
            // The end is read slowly.
            if (bytes > 31 * 1024 * 1024) {
              answer.pause();
              setTimeout(() => answer.resume(), 5 + (index % 7));
            }
          });
          answer.on("close", () => done(bytes)).on("error", () => {});
        }).end();
      });
    const reading = Array.from({ length: 12 }, (_, index) => read(index));
    await expect.poll(() => begun, { interval: 5, timeout: 10_000 }).toBe(12);
    const closed = server.close(60);
    expect(await Promise.all(reading)).toEqual(Array(12).fill(32 * 1024 * 1024));
    await closed;
  });

  test("a client that leaves is not the server's doing", async () => {
    const records: (string | undefined)[] = [];
    const server = await start({ onResponse: ({ delivery }) => records.push(delivery.cutOff) });
    const sent = askPlain({ port: server.port, path: "/large.bin", agent: false }, (answer) =>
      answer.once("data", () => answer.destroy()),
    ).on("error", () => {});
    sent.end();
    await expect.poll(() => records).toEqual(["client-left"]);
  });

  test.each([
    ["says nothing", false, ""],
    ["has sent half a head", false, "GET / HTTP/1.1\r\nHo"],
    ["never shakes hands", true, ""],
  ])(
    "a client that %s holds up nobody; one that asks a moment later is answered",
    async (_, isSecure, text) => {
      const server = await start(isSecure ? { tls: { cert: at("one.pem"), key: at("one.key") } } : {});
      const idle = connect(server.port, "127.0.0.1");
      const late = isSecure
        ? connectTls({ port: server.port, host: "127.0.0.1", rejectUnauthorized: false })
        : connect(server.port, "127.0.0.1");
      idle.on("error", () => {}).write(text);
      await once(late, isSecure ? "secureConnect" : "connect");
      await wait(100);
      // Longer than the test may take.
      const closed = server.close(60);
      const answered = once(late, "data") as Promise<[Buffer]>;
      late.write("GET / HTTP/1.1\r\nHost: larkholm.example\r\n\r\n");
      if (!isSecure) expect(String((await answered)[0])).toMatch(/^HTTP\/1\.1 200/);
      await closed;
      for (const socket of [idle, late]) socket.destroy();
    },
  );

  test("a TLS client that sends nothing, or a byte now and then, is not waited for; those that break off at once leave nothing", {
    timeout: 150_000,
  }, async () => {
    const server = await start({ tls: { cert: at("one.pem"), key: at("one.key") }, stalledAfterSeconds: 10 });
    // Clients of tests before may be among them.
    const left = (): number =>
      process.getActiveResourcesInfo().filter((name) => name === "TLSWrap" || name === "TCPSocketWrap")
        .length;
    const before = left();
    const closed: string[] = [];
    const open = (name: string): Socket =>
      connect(server.port, "127.0.0.1")
        .on("error", () => {})
        .on("close", () => closed.push(name));
    open("silent");
    const slow = open("slow");
    const hello = Buffer.from([22, 3, 1, 1, 0, 1, 0, 0, 252, 3, 3]);
    let sent = 0;
    const dribble = setInterval(
      () => slow.write(hello.subarray(sent % hello.length, (sent++ % hello.length) + 1)),
      1000,
    );
    for (let turn = 0; turn < 8; turn++)
      await Promise.all(Array.from({ length: 25 }, (_, index) => breakOff(server.port, index % 20)));
    await expect.poll(() => closed.sort()).toEqual(["silent", "slow"]);
    clearInterval(dribble);
    await expect.poll(left).toBeLessThanOrEqual(before);
    expect(
      await ask({ port: server.port, path: "/", agent: false, rejectUnauthorized: false }, askTls as never),
    ).toMatchObject({ status: 200 });
    await server.close(1);
  });

  test("the stop ends, whatever clients that broke off left behind", { timeout: 60_000 }, async () => {
    const program = `
      const { openSite, memorySource } = await import(${JSON.stringify(new URL("../dist/index.js", import.meta.url).href)});
      const { startServer } = await import(${JSON.stringify(new URL("../dist/adapters/node.js", import.meta.url).href)});
      const site = await openSite({ mounts: [{ source: memorySource({ "large.bin": new Uint8Array(5e6) }) }] });
      const server = await startServer(site, { port: 0, tls: { cert: ${JSON.stringify(at("one.pem"))}, key: ${JSON.stringify(at("one.key"))} } });
      console.log(server.port);
      await new Promise((done) => process.stdin.once("data", done));
      process.stdin.destroy();
      await server.close(1);
      console.log("stopped");`;
    const child = spawn(process.execPath, ["--input-type=module", "-e", program], {
      stdio: ["pipe", "pipe", "inherit"],
    });
    let out = "";
    child.stdout.on("data", (chunk) => (out += chunk));
    await expect.poll(() => out).toMatch(/^\d+\n/);
    for (let turn = 0; turn < 5; turn++)
      await Promise.all(Array.from({ length: 50 }, (_, index) => breakOff(Number(out), index % 20)));
    const ended = once(child, "close");
    child.stdin.write("stop");
    const [status] = await ended;
    expect([status, out]).toMatchObject([0, expect.stringMatching(/\nstopped\n$/)]);
  });

  test("a client that breaks off answer after answer is sent away, and one that breaks off a page is not", async () => {
    const server = await start({ tls: { cert: at("one.pem"), key: at("one.key") } });
    const breakOffAnswers = async (count: number): Promise<boolean> => {
      const session = connectHttp2(server.url, { rejectUnauthorized: false }).on("error", () => {});
      let isSentAway = false;
      session.on("goaway", () => (isSentAway = true));
      await once(session, "connect");
      for (let at = 0; at < count && !session.destroyed; at += 50) {
        for (let stream = 0; stream < 50 && !session.destroyed; stream++)
          session
            .request({ ":path": "/large.bin" })
            .on("error", () => {})
            .close(8);
        await wait(20);
      }
      await wait(200);
      session.destroy();
      return isSentAway;
    };
    expect([await breakOffAnswers(200), await breakOffAnswers(3000)]).toEqual([false, true]);
  });

  test("over TLS on a socket of this machine an answer in progress is finished", async () => {
    const socket = at("tls.sock");
    const server = await start({ socket, tls: { cert: at("one.pem"), key: at("one.key") } });
    const secure = connectTls({ path: socket, rejectUnauthorized: false, ALPNProtocols: ["http/1.1"] });
    await once(secure, "secureConnect");
    secure.write("GET /large.bin HTTP/1.1\r\nHost: larkholm.example\r\n\r\n");
    let bytes = 0;
    await once(secure, "readable");
    const stopped = server.close(20);
    // Longer than a connection is waited for that asked for nothing.
    await wait(1200);
    secure.on("data", (chunk: Buffer) => (bytes += chunk.length));
    await once(secure, "end");
    expect(bytes).toBeGreaterThan(32 * 1024 * 1024);
    await stopped;
  });

  test.each([
    "GET / HTTP/1.1\r\nHost: a\r\nHost: b\r\n\r\n",
    "GET / HTTP/1.1\r\nHost: a\r\nhost: a\r\n\r\n",
    "HEAD / HTTP/1.1\r\nX: y\r\nHOST: a\r\nhOsT: a\r\n\r\n",
  ])("RFC 9112 §3.2: several lines of Host are refused, whatever was kept: %j", async (head) => {
    const server = await start();
    for (let turn = 0; turn < 3; turn++)
      expect((await ask({ port: server.port, path: "/", agent: false })).status).toBe(200);
    for (let turn = 0; turn < 3; turn++) {
      const socket = connect(server.port, "127.0.0.1");
      socket.write(head);
      expect(String((await once(socket, "data"))[0])).toMatch(/^HTTP\/1\.1 400 /);
      socket.destroy();
    }
    expect((await ask({ port: server.port, path: "/", agent: false })).status).toBe(200);
  });

  test("a file of the site in the place of a health address is told, since nobody gets it", async () => {
    const warnings: string[] = [];
    const site = await openSite({
      mounts: [
        { source: memorySource({ "health/ready.html": "r", "health/index.html": "h" }), kind: "pages" },
      ],
    });
    const server = await startServer(site, {
      port: 0,
      health: "/health",
      onWarning: (text) => void warnings.push(text),
    });
    await server.close();
    expect(warnings).toEqual([
      "health: /health/ready is a file of the site, too (health/ready.html), and is never sent; choose another prefix.",
    ]);
  });

  test.each(["health", "/", "/health/", "/a b"])("a prefix that is none: %s", async (health) => {
    await expect(start({ health })).rejects.toThrow(
      `health: found ${JSON.stringify(health)}; write a prefix with a slash at the start and none at the end, such as "/health".`,
    );
  });
});

describe("metrics", () => {
  /** Reads the text with an independent parser; a sample's labels stand in the order of their names. */
  function parseMetrics(text: string): Map<string, number> {
    const reader =
      "import json, sys\nfrom prometheus_client.openmetrics.parser import text_string_to_metric_families as read\nprint(json.dumps([[s.name, s.labels, s.value] for f in read(sys.stdin.read()) for s in f.samples]))";
    const samples = JSON.parse(
      execFileSync("/usr/bin/python3", ["-c", reader], { input: text, encoding: "utf8" }),
    ) as [string, Record<string, string>, number][];
    const tell = (labels: Record<string, string>): string =>
      Object.entries(labels)
        .map(([name, value]) => `${name}=${JSON.stringify(value)}`)
        .sort()
        .join(",");
    return new Map(samples.map(([name, labels, value]) => [`${name}{${tell(labels)}}`, value]));
  }

  test("answers by status and kind, times, what was cut off, memory; beside health or on a port of its own", async () => {
    const server = await start({ health: "/health", metrics: "/health/metrics" });
    const read = async (path: string, port = server.port): Promise<Told> => ask({ port, path, agent: false });
    const [{ headers }] = [
      await read("/"),
      await read("/none"),
      await read("/"),
      await read("/health/alive"),
    ];
    await ask({
      port: server.port,
      path: "/",
      agent: false,
      headers: { "If-None-Match": String(headers.etag) },
    });
    const told = await read("/health/metrics");
    expect([told.status, told.headers["content-type"]]).toEqual([
      200,
      "application/openmetrics-text; version=1.0.0; charset=utf-8",
    ]);
    expect(told.body).toMatch(
      /^# TYPE epistyle_answer_seconds histogram\n# UNIT epistyle_answer_seconds seconds\n# HELP /m,
    );
    const metrics = parseMetrics(told.body);
    const of = (name: string): number | undefined => metrics.get(name);
    expect([
      of('epistyle_answers_total{kind="file",status="200"}'),
      of('epistyle_answers_total{kind="error",status="404"}'),
      of('epistyle_answers_total{kind="not modified",status="304"}'),
    ]).toEqual([2, 1, 1]);
    expect([of("epistyle_answer_seconds_count{}"), of('epistyle_answer_seconds_bucket{le="+Inf"}')]).toEqual([
      4, 4,
    ]);
    expect(of("process_open_fds{}")).toBeGreaterThan(3);
    const buckets = [...metrics]
      .filter(([name]) => name.startsWith("epistyle_answer_seconds_bucket"))
      .map(([, count]) => count);
    expect(buckets).toEqual([...buckets].sort((a, b) => a - b));
    const apart = await start({ metrics: { port: 0 } });
    expect(parseMetrics((await read("/", apart.metricsPort)).body).get("epistyle_sent_bytes_total{}")).toBe(
      0,
    );
    expect((await read("/health/metrics", apart.port)).status).toBe(404);
    await expect(start({ metrics: "metrics" })).rejects.toThrow(
      'metrics: found "metrics"; write a path with a slash at the start and none at the end, such as "/metrics".',
    );
  });
});

describe("over TLS", () => {
  const subject = (port: number): Promise<string> =>
    new Promise((done) => {
      const socket = connectTls({ port, rejectUnauthorized: false, ALPNProtocols: ["http/1.1"] }, () => {
        done(String(socket.getPeerCertificate().subject.CN));
        socket.destroy();
      });
    });
  const http2 = (url: string, path: string): Promise<string> =>
    new Promise((done, failed) => {
      const session = connectHttp2(url, { rejectUnauthorized: false });
      session.on("error", failed);
      const stream = session.request({ ":path": path });
      stream
        .on("response", (fields) => done(`${fields[":status"]} ${session.alpnProtocol}`))
        .on("error", failed);
      stream.resume().on("end", () => session.close());
    });

  test("HTTP/2 and HTTP/1.1 on one port; a new certificate is used at once, and no request is lost", async () => {
    for (const kind of ["pem", "key"]) copyFileSync(at(`one.${kind}`), at(`live.${kind}`));
    const warnings: string[] = [];
    const server = await start({
      tls: { cert: at("live.pem"), key: at("live.key") },
      health: "/health",
      onWarning: (text) => warnings.push(text),
    });
    expect(server.url).toBe(`https://127.0.0.1:${server.port}/`);
    expect(await http2(server.url, "/")).toBe("200 h2");
    const agent = new Agent({ keepAlive: true, rejectUnauthorized: false });
    let [stop, asked] = [false, 0];
    const failed: unknown[] = [];
    const visitor = (async () => {
      for (; !stop; asked++) {
        const outcome = await Promise.all([
          ask({ port: server.port, path: "/", agent }, askTls as typeof askPlain),
          http2(server.url, "/"),
        ]).catch((error: unknown) => error);
        if (!Array.isArray(outcome) || outcome[0].status !== 200 || outcome[1] !== "200 h2")
          failed.push(outcome);
      }
    })();
    expect(await subject(server.port)).toBe("one.larkholm.example");
    // One file after the other: in between the two do not belong together.
    for (const kind of ["pem", "key"]) {
      copyFileSync(at(`two.${kind}`), at(`next.${kind}`));
      renameSync(at(`next.${kind}`), at(`live.${kind}`));
      await wait(50);
    }
    await expect.poll(() => subject(server.port), { interval: 100 }).toBe("two.larkholm.example");
    writeFileSync(at("live.pem"), "no certificate");
    const told =
      /^The renewed certificate is not used, the old one still is\. tls\.cert: found "\S+live\.pem", which has no certificate in PEM form; write the path of a PEM file\.$/;
    await expect.poll(() => warnings).toEqual([expect.stringMatching(told)]);
    expect(await subject(server.port)).toBe("two.larkholm.example");
    stop = true;
    await visitor;
    expect([asked > 10, failed]).toEqual([true, []]);
    // Idle connections of both kinds do not hold up the end.
    const session = connectHttp2(server.url, { rejectUnauthorized: false });
    await new Promise((done) => session.once("connect", done));
    await server.close(60);
    session.destroy();
    agent.destroy();
  });

  test("a connection that is kept ends with the answer that is in progress when the server stops, and not before", async () => {
    const server = await start({ tls: { cert: at("one.pem"), key: at("one.key") } });
    const agent = new Agent({ keepAlive: true, maxSockets: 1, rejectUnauthorized: false });
    const get = (path: string, onAnswer: (answer: IncomingMessage) => void = () => {}): Promise<number> =>
      new Promise((done, failed) => {
        const sent = askTls({ port: server.port, path, agent }, (answer) => {
          let bytes = 0;
          onAnswer(answer);
          answer.on("data", (chunk) => (bytes += chunk.length)).on("end", () => done(bytes));
        });
        sent.on("error", failed).end();
      });
    expect(await get("/")).toBe(23);
    let closed: Promise<void> | undefined;
    const bytes = await get("/large.bin", (answer) => {
      answer.pause();
      closed = server.close(60);
      setTimeout(() => answer.resume(), 100);
    });
    await closed;
    expect(bytes).toBe(32 * 1024 * 1024);
    await expect(get("/")).rejects.toThrow();
    agent.destroy();
  });

  test("what cannot be used is told with what to write", async () => {
    await expect(start({ tls: { cert: at("none.pem"), key: at("one.key") } })).rejects.toThrow(
      /^tls\.cert: found ".*none\.pem", which does not exist; write the path of a PEM file\.$/,
    );
    await expect(start({ tls: { cert: at("one.pem"), key: at("two.key") } })).rejects.toThrow(
      /cannot be used together \(.*\); write two PEM files that match\.$/,
    );
  });
});

describe("on a socket", () => {
  test("of its own: one that was left behind is replaced, one in use is not", async () => {
    const socket = at("site.sock");
    const left = spawn(process.execPath, [
      "-e",
      `require("net").createServer().listen(${JSON.stringify(socket)})`,
    ]);
    await expect.poll(() => existsSync(socket)).toBe(true);
    await expect(start({ socket })).rejects.toThrow(
      `The socket ${socket} is in use by another program; stop that one, or write another path.`,
    );
    left.kill("SIGKILL");
    await new Promise((done) => left.once("close", done));
    const server = await start({ socket });
    expect([server.url, server.port]).toEqual([`unix:${socket}`, 0]);
    expect(await ask({ socketPath: socket, path: "/", agent: false })).toMatchObject({ status: 200 });
    await expect(start({ socket: at("plain.txt") })).rejects.toThrow(
      "which is not a socket; write a path that does not exist yet.",
    );
    await expect(start({ socket: at("none/site.sock") })).rejects.toThrow(
      "cannot be created (the folder does not exist, or this process may not write to it); write a path in a folder that this process may write to.",
    );
    await expect(start({ descriptor: 987 })).rejects.toThrow(
      /^The descriptor 987 does not listen \(.*\); pass a listening socket, or leave descriptor out\.$/,
    );
    for (const wrong of [1, 2, 3.5])
      await expect(start({ descriptor: wrong })).rejects.toThrow(
        `descriptor: found ${wrong}; a descriptor that was passed in is a whole number from 3 up.`,
      );
  });
});
