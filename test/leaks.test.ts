import { createHook } from "node:async_hooks";
import { getEventListeners, once } from "node:events";
import { readdirSync } from "node:fs";
import { createServer, type Server } from "node:http";
import { connect as connectHttp2, createServer as createHttp2, type Http2Server } from "node:http2";
import { type AddressInfo, connect, type Socket } from "node:net";
import { setTimeout as wait } from "node:timers/promises";
import { setFlagsFromString } from "node:v8";
import { runInNewContext } from "node:vm";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { nodeHandler, startServer } from "../src/adapters/node.js";
import { webHandler } from "../src/adapters/web.js";
import { openSite, type Site } from "../src/index.js";
import { makeTree, type Tree } from "./helpers.js";

/** The timers that the product set and that neither ran nor were cleared, with where they were set. */
const timers = new Map<number, string>();
const hook = createHook({
  init(id, type) {
    const stack = type === "Timeout" ? (new Error().stack ?? "") : "";
    const line = stack.split("\n").find((one) => /\/src\/(?:adapters|core|sources|site)\//.test(one));
    if (line !== undefined) timers.set(id, line);
  },
  destroy: (id) => void timers.delete(id),
});

let tree: Tree;
let site: Site;
let [http, http2]: [Server, Http2Server] = [] as never;

const portOf = (server: Server | Http2Server): number => (server.address() as AddressInfo).port;
const isLinux = process.platform === "linux";
const descriptors = (): number => (isLinux ? readdirSync("/proc/self/fd").length : 0);

async function closed(stream: { readonly destroyed: boolean } & NodeJS.EventEmitter): Promise<void> {
  if (!stream.destroyed) await once(stream, "close");
}

const REQUEST = "GET /large.bin HTTP/1.1\r\nHost: a\r\n\r\n";
const asked = (signal?: AbortSignal): Request =>
  new Request("http://larkholm.invalid/large.bin", { signal: signal ?? null });

beforeAll(async () => {
  tree = await makeTree({
    "large.bin": Buffer.alloc(20_000_000, "x"),
    "small.txt": "small",
    "folder/a.txt": "a",
  });
  site = await openSite({ mounts: [{ folder: tree.root, listing: true }] });
  const handler = nodeHandler(site, { stalledAfterSeconds: 0.3 });
  http = createServer(handler);
  http2 = createHttp2(handler);
  for (const server of [http, http2]) await once(server.listen(0, "127.0.0.1"), "listening");
  hook.enable();
});
afterAll(async () => {
  hook.disable();
  for (const server of [http, http2]) server.close();
  await tree.remove();
});

async function open(request = REQUEST): Promise<Socket> {
  const client = connect(portOf(http), "127.0.0.1").on("error", () => {});
  await once(client, "connect");
  client.write(request);
  await once(client, "readable");
  return client;
}

async function openStream(): Promise<{
  session: ReturnType<typeof connectHttp2>;
  stream: ReturnType<ReturnType<typeof connectHttp2>["request"]>;
}> {
  const session = connectHttp2(`http://127.0.0.1:${portOf(http2)}`);
  const stream = session.request({ ":path": "/large.bin" }).on("error", () => {});
  await once(stream, "response");
  return { session, stream };
}

async function answerOf(signal?: AbortSignal, stalledAfterSeconds = 30): Promise<Response> {
  return (await webHandler(site, { stalledAfterSeconds })(asked(signal)))!;
}

/** Each way in which an answer under way can end. */
const ENDINGS: Record<string, () => Promise<unknown>> = {
  "a client that resets the connection": async () => (await open()).resetAndDestroy(),
  "a client that leaves": async () => (await open()).destroy(),
  "a client that says no more, and reads": async () => {
    const client = await open();
    client.end();
    await once(client.resume(), "close");
  },
  "a client that says no more, and leaves": async () => {
    const client = await open();
    client.end();
    await wait(20);
    client.destroy();
  },
  "a client that asked for many at once": async () => (await open(REQUEST.repeat(300))).destroy(),
  "a client that asked for several kinds at once": async () =>
    (
      await open(
        ["small.txt", "folder/", "none", "large.bin", "folder"]
          .map((path) => REQUEST.replace("large.bin", path))
          .join(""),
      )
    ).destroy(),
  "a client that takes nothing": async () => {
    const client = await open();
    client.pause();
    await wait(900);
    await closed(client.resume());
  },
  "a stream of HTTP/2 that is cancelled": async () => {
    const { session, stream } = await openStream();
    stream.close(8);
    await once(stream, "close");
    session.close();
  },
  "a stream of HTTP/2 that takes nothing": async () => {
    const { session, stream } = await openStream();
    stream.pause();
    await wait(900);
    await closed(stream.resume());
    session.close();
  },
  "a session of HTTP/2 that ends": async () => (await openStream()).session.destroy(),
  "a server that stops": async () => {
    const server = await startServer(site, { port: 0 });
    const client = connect(server.port, "127.0.0.1").on("error", () => {});
    client.write(REQUEST);
    await once(client, "readable");
    await server.close(0.05);
    client.destroy();
  },
  "a Fetch body that is read": async () => (await answerOf()).arrayBuffer(),
  "a Fetch body that is cancelled": async () => (await answerOf()).body!.cancel(),
  "a Fetch body that is cancelled while it is read": async () => {
    const reader = (await answerOf()).body!.getReader();
    await reader.read();
    const reading = reader.read();
    await reader.cancel();
    await reading;
  },
  "a Fetch request that is aborted": async () => {
    const controller = new AbortController();
    const response = await answerOf(controller.signal);
    controller.abort();
    await expect(response.arrayBuffer()).rejects.toThrow();
  },
  "a Fetch body that is read, with a signal that lives on": async () => {
    const request = asked(new AbortController().signal);
    await (await webHandler(site)(request))!.arrayBuffer();
    expect(getEventListeners(request.signal, "abort")).toEqual([]);
  },
  "a Fetch body that is not read on": async () => {
    const response = await answerOf(undefined, 0.1);
    const reader = response.body!.getReader();
    await reader.read();
    await wait(300);
    await expect(reader.read()).rejects.toThrow("Nobody read the body for too long, so its file was closed.");
  },
  "Fetch bodies that are dropped unread": async () => {
    for (let i = 0; i < 20; i++) await answerOf();
    setFlagsFromString("--expose-gc");
    const collect = runInNewContext("gc") as () => void;
    for (let i = 0; i < 20; i++) {
      collect();
      await wait(10);
    }
  },
};

describe("descriptors and timers are what they were after", () => {
  // What is opened once and kept, such as the platform's own threads, is open by then.
  beforeAll(async () => {
    await closed((await open()).resume().end());
    const { session } = await openStream();
    session.destroy();
    await (await answerOf()).arrayBuffer();
    await wait(200);
  });

  test.each(Object.entries(ENDINGS))("%s", async (_, end) => {
    const before = descriptors();
    await end();
    // What closed late in the test before is one less.
    await expect
      .poll(() => [Math.max(before, descriptors()), ...timers.values()], { interval: 25 })
      .toEqual([before]);
  });
});

test("a connection that is used again and again gathers no listeners", async () => {
  const connected = once(http, "connection") as Promise<[Socket]>;
  const client = connect(portOf(http), "127.0.0.1");
  const [socket] = await connected;
  const count = (): Record<string, number> =>
    Object.fromEntries(socket.eventNames().map((name) => [String(name), socket.listenerCount(name)]));
  const ask = async (path: string): Promise<void> => {
    client.write(REQUEST.replace("large.bin", path));
    let got = 0;
    const length = path === "large.bin" ? 20_000_000 : 1;
    while (got < length) got += ((await once(client, "data")) as [Buffer])[0].length;
    await wait(5);
  };
  await ask("large.bin");
  const first = count();
  for (let i = 0; i < 30; i++) for (const path of ["small.txt", "folder/", "none"]) await ask(path);
  await ask("large.bin");
  expect(count()).toEqual(first);
  client.destroy();
});
