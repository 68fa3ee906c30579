import type { Server } from "node:http";
import type { Http2Server } from "node:http2";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { makeClientReader, type Proxies, type ProxyField, readPeer } from "../src/adapters/client.js";
import { formatLogLine, nodeHandler, type ResponseRecord } from "../src/adapters/node.js";
import { webHandler } from "../src/adapters/web.js";
import { parseForwarded, parseXForwarded } from "../src/core/fields/forwarded.js";
import { memorySource, openSite } from "../src/index.js";

const OWN = "10.0.0.1";
type Fields = Record<string, string>;
// The field that the proxy writes is the one that is there, unless a row says otherwise.
const read = (
  proxies: Proxies,
  headers: Fields,
  address: string | undefined = OWN,
  field: ProxyField = "forwarded" in headers ? "Forwarded" : "X-Forwarded-For",
): unknown => {
  const {
    address: who,
    scheme,
    host,
  } = makeClientReader(proxies, field)(
    { host: "inner.invalid", ...headers },
    { address, isLocal: false, isSecure: false },
  );
  return [who, scheme, host];
};

describe("who asked, behind proxies", () => {
  test.each<[what: string, proxies: Proxies, headers: Fields, client: unknown[]]>([
    [
      "nobody is believed where no proxy stands",
      0,
      { forwarded: "for=192.0.2.1;proto=https", "x-forwarded-for": "192.0.2.2" },
      [OWN, "http", "inner.invalid"],
    ],
    [
      "RFC 7239 §4: one proxy",
      1,
      { forwarded: "for=192.0.2.1;proto=https;host=larkholm.example" },
      ["192.0.2.1", "https", "larkholm.example"],
    ],
    [
      "§7.1 what a stranger wrote before it came to the proxy",
      1,
      { forwarded: "for=6.6.6.6;proto=https, for=192.0.2.1;proto=http" },
      ["192.0.2.1", "http", "inner.invalid"],
    ],
    [
      "two proxies",
      2,
      { forwarded: "for=6.6.6.6, for=192.0.2.1;proto=https;host=larkholm.example, for=10.0.0.2;proto=http" },
      ["192.0.2.1", "https", "larkholm.example"],
    ],
    [
      "who passed by the outer proxy is the one that the inner one saw",
      2,
      { forwarded: "for=192.0.2.7" },
      ["192.0.2.7", "http", "inner.invalid"],
    ],
    [
      "§6 IPv6, with a port",
      1,
      { forwarded: 'for="[2001:db8::1]:4711"' },
      ["2001:db8::1", "http", "inner.invalid"],
    ],
    [
      "§6 a name of the proxy's own, and who is unknown",
      1,
      { forwarded: "for=_gazonk" },
      ["_gazonk", "http", "inner.invalid"],
    ],
    [
      "§4 names in any case, values with quotes",
      1,
      { forwarded: 'For="192.0.2.1";PROTO=HTTPS;Host="larkholm.example:8443"' },
      ["192.0.2.1", "https", "larkholm.example:8443"],
    ],
    [
      "an element without who asked ends it",
      2,
      { forwarded: "for=192.0.2.1, by=10.0.0.2" },
      [OWN, "http", "inner.invalid"],
    ],
    [
      "the fields before the standard",
      1,
      {
        "x-forwarded-for": "6.6.6.6, 192.0.2.1:5000",
        "x-forwarded-proto": "https",
        "x-forwarded-host": "larkholm.example",
      },
      ["192.0.2.1", "https", "larkholm.example"],
    ],
    [
      "lists of the same length",
      2,
      { "x-forwarded-for": "192.0.2.1, 10.0.0.2", "x-forwarded-proto": "https, http" },
      ["192.0.2.1", "https", "inner.invalid"],
    ],
    [
      "an invalid scheme",
      1,
      { "x-forwarded-for": "192.0.2.1", "x-forwarded-proto": "ja va" },
      ["192.0.2.1", "http", "inner.invalid"],
    ],
    [
      "addresses: a proxy of ours",
      ["10.0.0.0/8"],
      { "x-forwarded-for": "6.6.6.6, 192.0.2.1, 10.0.0.9" },
      ["192.0.2.1", "http", "inner.invalid"],
    ],
    [
      "addresses: a proxy of ours, and no other",
      ["10.0.0.1/32", "2001:db8::1/128"],
      { "x-forwarded-for": "192.0.2.1, 2001:db8::1" },
      ["192.0.2.1", "http", "inner.invalid"],
    ],
    [
      "addresses: a stranger",
      ["192.168.0.0/16", "::1"],
      { "x-forwarded-for": "6.6.6.6" },
      [OWN, "http", "inner.invalid"],
    ],
  ])("%s", (_what, proxies, headers, client) => {
    expect(read(proxies, headers)).toEqual(client);
  });

  test("an address of IPv4 written as IPv6, and a socket without one", () => {
    expect(read(["10.0.0.0/8"], { "x-forwarded-for": "192.0.2.1" }, "::ffff:10.0.0.1")).toEqual([
      "192.0.2.1",
      "http",
      "inner.invalid",
    ]);
    expect(read(["10.0.0.0/8"], { "x-forwarded-for": "192.0.2.1" }, "::ffff:10.0.0.1.5")).toEqual([
      "::ffff:10.0.0.1.5",
      "http",
      "inner.invalid",
    ]);
    const of = (isLocal: boolean) =>
      makeClientReader(["10.0.0.1"])(
        { "x-forwarded-for": "192.0.2.1" },
        { address: undefined, isLocal, isSecure: true },
      );
    expect(of(true)).toEqual({ address: "192.0.2.1", scheme: "https", host: undefined });
    // What was reset has no address any more, and came from anywhere.
    expect(of(false)).toEqual({ address: undefined, scheme: "https", host: undefined });
  });

  test.each<[ProxyField, Fields, unknown[]]>([
    [
      "X-Forwarded-For",
      { forwarded: "for=6.6.6.6;proto=https", "x-forwarded-for": "192.0.2.1" },
      ["192.0.2.1", "http", "inner.invalid"],
    ],
    ["X-Forwarded-For", { forwarded: "for=6.6.6.6;proto=https" }, [OWN, "http", "inner.invalid"]],
    [
      "Forwarded",
      { forwarded: "for=192.0.2.1", "x-forwarded-for": "6.6.6.6", "x-forwarded-proto": "https" },
      ["192.0.2.1", "http", "inner.invalid"],
    ],
    ["Forwarded", { "x-forwarded-for": "6.6.6.6" }, [OWN, "http", "inner.invalid"]],
  ])("the field that the proxy writes counts, and a stranger's is ignored: %s", (field, headers, client) => {
    expect(read(1, headers, OWN, field)).toEqual(client);
  });

  test("a stranger who resets its connection is no socket of this machine", async () => {
    const { createServer, connect } = await import("node:net");
    const peers: unknown[] = [];
    const server = createServer((socket) => {
      socket.on("error", () => {});
      const began = process.hrtime.bigint();
      // The reset is there, and the platform has not heard of it.
      while (process.hrtime.bigint() - began < 50_000_000n);
      peers.push(readPeer(socket));
    }).listen(0, "127.0.0.1");
    await new Promise((done) => server.once("listening", done));
    const { port } = server.address() as { port: number };
    const { Worker } = await import("node:worker_threads");
    const client = new Worker(
      `const s = require("node:net").connect(${port}, "127.0.0.1", () => s.resetAndDestroy());`,
      { eval: true },
    );
    await expect.poll(() => peers.length).toBe(1);
    expect(peers[0]).toMatchObject({ isLocal: false });
    await client.terminate();
    server.close();
    // And a socket of this machine is one.
    const path = join(tmpdir(), `epistyle-${process.pid}.sock`);
    const local = createServer((socket) => void peers.push(readPeer(socket))).listen(path);
    await new Promise((done) => local.once("listening", done));
    const own = connect(path);
    await expect.poll(() => peers.length).toBe(2);
    expect(peers[1]).toEqual({ address: undefined, isLocal: true, isSecure: false });
    own.destroy();
    local.close();
  });

  test("a field that no proxy writes is refused", () => {
    expect(() => makeClientReader(1, "Via" as never)).toThrow(
      'proxyField: found "Via"; write "X-Forwarded-For" or "Forwarded".',
    );
  });

  test.each<[unknown, string]>([
    [-1, "proxies: found -1; write how many there are, such as 1, or a list of their addresses."],
    [1.5, "proxies: found 1.5; write how many"],
    ["10.0.0.1", 'proxies: found "10.0.0.1"; write how many'],
    [
      ["proxy.example"],
      'proxies: found "proxy.example"; write an address such as "10.0.0.1", or a network such as "10.0.0.0/8".',
    ],
    [["10.0.0.0/64"], 'proxies: found "10.0.0.0/64"; write an address'],
  ])("%j are no proxies", (proxies, message) => {
    expect(() => makeClientReader(proxies as Proxies)).toThrow(message);
  });

  test("any field is read without throwing, and never makes more elements than it has separators", () => {
    fc.assert(
      fc.property(
        fc.string({
          unit: fc.constantFrom(
            "for=",
            "proto",
            "=",
            ";",
            ",",
            '"',
            "\\",
            "[",
            "]",
            ":",
            "1.2.3.4",
            "::1",
            " ",
            "_a",
            "x",
          ),
        }),
        (text) => {
          expect(parseForwarded(text).length).toBeLessThanOrEqual(text.split(",").length);
          expect(parseXForwarded({ for: text, proto: text, host: text }).length).toBeLessThanOrEqual(
            text.split(",").length,
          );
          read(2, { forwarded: text });
          read(2, { "x-forwarded-for": text });
        },
      ),
    );
  });

  test("records name the client; the answer is the same", async () => {
    const records: ResponseRecord[] = [];
    const site = await openSite({ mounts: [{ source: memorySource({ "index.html": "x" }) }] });
    const { createServer } = await import("node:http");
    const server = createServer(
      nodeHandler(site, {
        proxies: 1,
        proxyField: "Forwarded",
        onResponse: (record) => records.push(record),
      }),
    ).listen(0, "127.0.0.1");
    await new Promise((done) => server.once("listening", done));
    const { port } = server.address() as { port: number };
    for (let turn = 0; turn < 4; turn++)
      await (
        await fetch(`http://127.0.0.1:${port}/`, { headers: { Forwarded: "for=192.0.2.1;proto=https" } })
      ).text();
    server.close();
    server.closeAllConnections();
    expect(
      records.map(({ remoteAddress, client }) => [remoteAddress, client.address, client.scheme]),
    ).toEqual(Array(4).fill(["127.0.0.1", "192.0.2.1", "https"]));
  });

  test("transport security is promised over TLS alone: of the connection, or of the proxy in front, if one stands there", async () => {
    const site = await openSite({
      mounts: [{ source: memorySource({ "index.html": "x" }), protect: { transportSecurity: "1y" } }],
    });
    const { createServer } = await import("node:http");
    for (const [proxies, scheme, promised] of [
      [0, "https", false],
      [1, "https", true],
      [1, "http", false],
    ] as const) {
      const server = await startListening(
        createServer(nodeHandler(site, { proxies, proxyField: "Forwarded" })),
      );
      for (let turn = 0; turn < 3; turn++)
        expect(
          (await fetch(server.url, { headers: { Forwarded: `for=192.0.2.1;proto=${scheme}` } })).headers.has(
            "strict-transport-security",
          ),
        ).toBe(promised);
      server.close();
    }
    for (const scheme of ["http", "https"])
      expect(
        (await webHandler(site)(new Request(`${scheme}://larkholm.example/`)))!.headers.has(
          "strict-transport-security",
        ),
      ).toBe(scheme === "https");
  });

  test.each([
    ["a proxy that is trusted", 1, true],
    ["anybody else", 0, false],
  ])(
    "a request id is taken over from %s, and times are told when asked for",
    async (_who, proxies, isTaken) => {
      const records: ResponseRecord[] = [];
      const site = await openSite({
        mounts: [{ source: memorySource({ "index.html": "x", "large.bin": new Uint8Array(200_000) }) }],
      });
      const handler = nodeHandler(site, {
        proxies,
        requestIds: true,
        serverTiming: true,
        onResponse: (record) => records.push(record),
      });
      const server = await startListening((await import("node:http")).createServer(handler));
      const ask = async (path: string, id?: string) => {
        const { headers } = await fetch(`${server.url}${path}`, {
          headers: id === undefined ? {} : { "X-Request-Id": id },
        });
        return { id: headers.get("x-request-id")!, timing: headers.get("server-timing")! };
      };
      const given = await ask("/", "ring-7f:42");
      expect(given.id === "ring-7f:42").toBe(isTaken);
      const own = [
        given,
        await ask("/"),
        await ask("/none"),
        await ask("/large.bin"),
        await ask("/", "two words"),
        await ask("/", "x".repeat(129)),
        await ask("/index.html"),
      ];
      for (const { id } of own.slice(1)) expect(id).toMatch(/^[\da-f]{8}-[\da-f-]{27}$/);
      expect(new Set(own.map(({ id }) => id)).size).toBe(own.length);
      await expect.poll(() => records.map(({ id }) => id).sort()).toEqual(own.map(({ id }) => id).sort());
      expect(own[2]!.timing).toMatch(/^wait;dur=\d+\.\d{3}, plan;dur=\d+\.\d{3}$/);
      // Small answers are kept from the second time on. Each takes less than the process has been running.
      const kept = await ask("/");
      expect(kept.timing).toMatch(/^kept;dur=\d+\.\d{3}$/);
      for (const { timing } of [...own, kept])
        for (const [, taken] of timing.matchAll(/dur=([\d.]+)/g))
          expect(Number(taken)).toBeLessThan(performance.now());
      const record = records.find(({ id }) => id === given.id)!;
      for (const form of ["common", "combined", "extended", "json"] as const)
        expect(formatLogLine(form, record)).toContain(given.id);
      expect(formatLogLine("common", { ...record, id: undefined })).toMatch(/"\/?index\.html"$/);
      server.close();
    },
  );

  test("ids and times of HTTP/2 too, and none where none are asked for", async () => {
    const site = await openSite({ mounts: [{ source: memorySource({ "index.html": "x" }) }] });
    const { connect, createServer } = await import("node:http2");
    for (const [options, named] of [
      [{ requestIds: true, serverTiming: true }, [true, true]],
      [{ requestIds: true }, [true, false]],
      [{ serverTiming: true }, [false, true]],
      [{}, [false, false]],
    ] as const) {
      const server = await startListening(createServer(nodeHandler(site, options)));
      const session = connect(server.url);
      for (let turn = 0; turn < 3; turn++) {
        const fields = await new Promise<Record<string, unknown>>((done) =>
          session.request({ ":path": "/" }).once("response", done).resume(),
        );
        expect(["x-request-id", "server-timing"].map((name) => name in fields)).toEqual(named);
      }
      session.destroy();
      server.close();
    }
  });
});

async function startListening(server: Server | Http2Server): Promise<{ url: string; close: () => void }> {
  await new Promise<void>((done) => void (server as Server).listen(0, "127.0.0.1", done));
  const close = (): void => void server.close();
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, close };
}
