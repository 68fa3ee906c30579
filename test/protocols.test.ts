import { execFile } from "node:child_process";
import { createHash } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync, truncateSync } from "node:fs";
import { createServer as createHttp } from "node:http";
import { connect as connectHttp2, createServer as createHttp2, createSecureServer } from "node:http2";
import { createServer as createHttps } from "node:https";
import { type AddressInfo, connect, type createServer as createNet } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { promisify } from "node:util";
import { Agent, cacheStores, interceptors, fetch as undiciFetch } from "undici";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { nodeHandler } from "../src/adapters/node.js";
import type { Site } from "../src/index.js";
import { openSite } from "./counting-source.js";
import { makeCertificate, makeTree } from "./helpers.js";

const execute = promisify(execFile);
const LARGE = Buffer.alloc(3_000_000, "0123456789abcdef");

let tree: Awaited<ReturnType<typeof makeTree>>;
let site: Site;
let key: { key: Buffer; cert: Buffer };
beforeAll(async () => {
  tree = await makeTree({
    "index.html": "<h1>home</h1>",
    "page.html": "text ".repeat(2000),
    "large.bin": LARGE,
    "sub/index.html": "sub",
  });
  site = await openSite({ mounts: [{ folder: tree.root }] });
  const folder = mkdtempSync(join(tmpdir(), "epistyle-key-"));
  makeCertificate(join(folder, "one"), "localhost");
  key = { key: readFileSync(join(folder, "one.key")), cert: readFileSync(join(folder, "one.pem")) };
  rmSync(folder, { recursive: true });
});
afterAll(() => tree.remove());

type Listening = Pick<ReturnType<typeof createNet>, "listen" | "address" | "close">;

async function withServer(server: Listening, action: (port: number) => Promise<void>): Promise<void> {
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  try {
    await action((server.address() as AddressInfo).port);
  } finally {
    server.close();
  }
}

interface Answer {
  readonly status: number;
  readonly headers: Record<string, string>;
  readonly body: Buffer;
}

function ask2(url: string, headers: Record<string, string>): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const session = connectHttp2(url, { rejectUnauthorized: false });
    session.on("error", reject);
    const stream = session.request({ ":method": "GET", ":path": "/", ...headers });
    let head: Record<string, unknown> = {};
    const chunks: Buffer[] = [];
    stream.on("response", (fields) => {
      head = fields;
    });
    stream.on("data", (chunk: Buffer) => chunks.push(chunk));
    stream.on("error", reject);
    stream.on("end", () => {
      session.close();
      resolve({
        status: Number(head[":status"]),
        headers: head as Record<string, string>,
        body: Buffer.concat(chunks),
      });
    });
    stream.end();
  });
}

describe("the same answers over", () => {
  const requests: [string, Record<string, string>, number, number | undefined][] = [
    ["/", {}, 200, 13],
    ["/large.bin", {}, 200, LARGE.length],
    ["/large.bin", { range: "bytes=1000000-1999999" }, 206, 1_000_000],
    ["/large.bin", { range: "bytes=0-9,20-29" }, 206, undefined],
    ["/page.html", { "accept-encoding": "br" }, 200, undefined],
    ["/", { "if-none-match": "*" }, 304, 0],
    ["/sub", {}, 301, 0],
    ["/nope", { accept: "text/html" }, 404, undefined],
  ];

  test("node:http2, in clear and with TLS", async () => {
    for (const [make, scheme] of [
      [() => createHttp2(nodeHandler(site) as never), "http"],
      [() => createSecureServer({ ...key, allowHTTP1: true }, nodeHandler(site) as never), "https"],
    ] as const) {
      await withServer(make(), async (port) => {
        for (const [path, headers, status, length] of requests) {
          const answer = await ask2(`${scheme}://127.0.0.1:${port}`, { ":path": path, ...headers });
          expect([path, answer.status]).toEqual([path, status]);
          if (length !== undefined) expect(answer.body.length).toBe(length);
          else expect(answer.body.length).toBe(Number(answer.headers["content-length"]));
          if (status === 200 && length === LARGE.length) expect(answer.body.equals(LARGE)).toBe(true);
        }
      });
    }
  });

  test("node:https", async () => {
    await withServer(createHttps(key, nodeHandler(site)), async (port) => {
      const { stdout } = await execute("curl", ["-sk", `https://127.0.0.1:${port}/large.bin`], {
        encoding: "buffer",
        maxBuffer: 8e6,
      });
      expect(stdout.equals(LARGE)).toBe(true);
    });
  });

  test("HTTP/1.0: the connection ends with the answer, or is kept when that is asked for", async () => {
    await withServer(createHttp(nodeHandler(site)), async (port) => {
      const talk = (text: string): Promise<string> =>
        new Promise((resolve) => {
          let received = "";
          const socket = connect(port, "127.0.0.1", () => socket.write(text));
          socket.on("data", (chunk) => {
            received += chunk;
          });
          socket.on("close", () => resolve(received));
        });
      expect(await talk("GET / HTTP/1.0\r\n\r\n")).toMatch(
        /^HTTP\/1\.1 200 .*Content-Length: 13\r\n.*Connection: close\r\n.*<\/h1>$/s,
      );
      const kept = await talk("GET / HTTP/1.0\r\nConnection: keep-alive\r\n\r\nGET / HTTP/1.0\r\n\r\n");
      expect(kept.match(/HTTP\/1\.1 200/g)).toHaveLength(2);
      const piped = await talk(
        `${"GET /page.html HTTP/1.1\r\nHost: x\r\n\r\n".repeat(5)}POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 3\r\n\r\nabcGET /nope HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n`,
      );
      expect(piped.match(/HTTP\/1\.1 \d{3}/g)).toEqual([
        ...Array(5).fill("HTTP/1.1 200"),
        "HTTP/1.1 405",
        "HTTP/1.1 404",
      ]);
    });
  });
});

describe("clients that nobody here wrote", () => {
  test("a caching HTTP client revalidates, gets 304, and shows the body it has", async () => {
    const statuses: number[] = [];
    // This client keeps nothing that says no-cache, so its copy is fresh for two seconds here.
    const own = await openSite({
      mounts: [{ folder: tree.root, caching: [{ files: "page.html", policy: { maxAge: "2s" } }] }],
    });
    const handler = nodeHandler(own, { onResponse: ({ delivery }) => statuses.push(delivery.status) });
    await withServer(createHttp(handler), async (port) => {
      const dispatcher = new Agent().compose(
        interceptors.cache({ store: new cacheStores.MemoryCacheStore() }),
      );
      for (let i = 0; i < 3; i++) {
        const response = await undiciFetch(`http://127.0.0.1:${port}/page.html`, { dispatcher });
        expect([response.status, (await response.text()).length]).toEqual([200, 10_000]);
        if (i === 1) await wait(2700);
      }
      await dispatcher.close();
    });
    expect(statuses).toEqual([200, 304]);
  });

  test("curl resumes a download where it was cut, and takes compressed answers", async () => {
    await withServer(createHttp(nodeHandler(site)), async (port) => {
      const folder = mkdtempSync(join(tmpdir(), "epistyle-curl-"));
      const file = join(folder, "large.bin");
      const url = `http://127.0.0.1:${port}/large.bin`;
      await execute("curl", ["-s", "-o", file, url]);
      truncateSync(file, 1_234_567);
      const { stdout } = await execute("curl", [
        "-s",
        "-C",
        "-",
        "-o",
        file,
        "-w",
        "%{http_code} %{size_download}",
        url,
      ]);
      expect(stdout).toBe(`206 ${LARGE.length - 1_234_567}`);
      expect(createHash("sha1").update(readFileSync(file)).digest("hex")).toBe(
        createHash("sha1").update(LARGE).digest("hex"),
      );
      const page = await execute("curl", [
        "-s",
        "--compressed",
        "-w",
        "\n%{size_download}",
        `http://127.0.0.1:${port}/page.html`,
      ]);
      const [body, size] = page.stdout.split("\n");
      expect(body).toBe("text ".repeat(2000));
      expect(Number(size)).toBeLessThan(200);
      rmSync(folder, { recursive: true });
    });
  });
});
