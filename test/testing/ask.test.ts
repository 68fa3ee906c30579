import { gzipSync } from "node:zlib";
import { afterEach, expect, test, vi } from "vitest";
import { Memory } from "../../src/core/memory/memory.js";
import { MADE_CODINGS, makeCompressor } from "../../src/sources/compressor.js";
import { askServer } from "../../src/testing/index.js";

// A client that records what it is asked for, and fails or answers as the test says.
const client = vi.hoisted(() => ({
  made: [] as unknown[],
  asked: [] as Record<string, unknown>[],
  destroyed: 0,
  answer: (): unknown => ({}),
}));
const platform = vi.hoisted(() => async () => {
  const { EventEmitter } = await import("node:events");
  return {
    Agent: class {
      constructor(given: unknown) {
        client.made.push(given);
      }
      destroy(): void {
        client.made.push("destroyed");
      }
    },
    request(asked: Record<string, unknown>) {
      client.asked.push(asked);
      const request = Object.assign(new EventEmitter(), {
        destroy: () => client.destroyed++,
        end() {
          queueMicrotask(() => {
            try {
              request.emit("response", client.answer());
            } catch (error) {
              request.emit("error", error);
            }
          });
          return request;
        },
      });
      return request;
    },
  };
});
vi.mock("node:http", platform);
vi.mock("node:https", platform);
afterEach(() => {
  client.made.length = 0;
  client.asked.length = 0;
});

const fails = (fields: Partial<NodeJS.ErrnoException>, message = "the platform's words") =>
  Object.assign(new Error(message), fields);
const question = { method: "GET", path: "/a", headers: {} };

test.each<[Error, string]>([
  [fails({ code: "ECONNREFUSED" }), "no server listens at https://larkholm.invalid"],
  [fails({ code: "ENOTFOUND" }), "the host name larkholm.invalid is unknown"],
  [fails({ code: "EAI_AGAIN" }), "the host name larkholm.invalid is unknown"],
  [
    fails({ code: "CERT_HAS_EXPIRED" }),
    "https://larkholm.invalid is not trusted: its certificate has expired; --insecure-tls accepts it anyway",
  ],
  [
    fails({ code: "UNABLE_TO_VERIFY_LEAF_SIGNATURE" }),
    "https://larkholm.invalid is not trusted: the certificate of its issuer is missing; --insecure-tls accepts it anyway",
  ],
  [
    fails({ code: "ERR_TLS_CERT_ALTNAME_INVALID" }),
    "https://larkholm.invalid is not trusted: its certificate is for another name; --insecure-tls accepts it anyway",
  ],
  [fails({ name: "TimeoutError" }), "no answer within 2 seconds"],
  [fails({ code: "SOME_TIMEOUT" }), "the platform's words"],
  [fails({ code: "ECONNRESET" }), "the connection closed before the answer was complete"],
  [fails({}, "aborted"), "the connection closed before the answer was complete"],
  [fails({ code: "ERR_UNESCAPED_CHARACTERS" }, "invalid path"), "the request cannot be sent: invalid path"],
  [
    fails({}, "SSL routines: wrong version number"),
    "https://larkholm.invalid does not speak TLS; write http: instead of https:",
  ],
  [
    fails({}, "packet length too long"),
    "https://larkholm.invalid does not speak TLS; write http: instead of https:",
  ],
  [fails({ code: "HPE_INVALID_CONSTANT" }), "the answer is not HTTP/1.1 (the platform's words)"],
  [fails({ code: "E_NEW" }, ""), "E_NEW"],
  [fails({ name: "NewError" }, ""), "NewError"],
])("%s", async (error, words) => {
  client.answer = () => {
    throw error;
  };
  const asker = askServer("https://larkholm.invalid/", { timeoutMs: 2000 });
  await expect(asker.ask(question)).rejects.toThrow(new Error(words));
  await expect(asker.ask(question, { timeoutMs: 90_000 })).rejects.toThrow(
    words.replace("2 seconds", "90 seconds"),
  );
});

test("what is sent, and how it is joined", async () => {
  const answer = (rawHeaders: string[], chunks: { length: number }[]) => () => ({
    statusCode: 200,
    rawHeaders,
    async *[Symbol.asyncIterator]() {
      yield* chunks;
    },
  });
  const asker = askServer("http://larkholm.invalid/sub/", {
    headers: { "User-Agent": "a", Every: "one" },
    concurrency: 2,
    insecureTls: true,
  });
  client.answer = answer(
    ["Vary", "Accept", "vary", "Origin", "ETag", '"a"'],
    [Buffer.from("ab"), Buffer.from("c")],
  );
  expect(await asker.ask({ ...question, headers: { every: "two" } })).toEqual({
    status: 200,
    headers: { vary: "Accept, Origin", etag: '"a"' },
    body: new Uint8Array([97, 98, 99]),
    lines: [
      ["Vary", "Accept"],
      ["vary", "Origin"],
      ["ETag", '"a"'],
    ],
    wire: { httpVersion: undefined, firstByteMilliseconds: expect.any(Number) },
    inside: undefined,
  });
  await asker.ask({ method: "OPTIONS", path: "*", headers: {} });
  expect(client.asked.map(({ method, path, headers }) => ({ method, path, headers }))).toEqual([
    { method: "GET", path: "/sub/a", headers: { "User-Agent": "a", every: "two" } },
    { method: "OPTIONS", path: "*", headers: { "User-Agent": "a", Every: "one" } },
  ]);
  client.answer = answer([], [{ length: 2 ** 28 }, { length: 1 }]);
  await expect(asker.ask(question)).rejects.toThrow(
    /^the body is longer than the limit of 256 MiB; ask for it with HEAD, or for a range of it$/,
  );
  await expect(asker.ask(question, { width: 8 })).rejects.toThrow(
    /^the body is longer than the limit of 64 MiB; .* or for a range of it, or send fewer requests at a time \(--concurrency 1\)$/,
  );
  await asker.close();
  expect([asker.about, asker.address, asker.concurrency, client.destroyed]).toEqual([
    "http://larkholm.invalid/sub/",
    "http://larkholm.invalid/sub",
    2,
    2,
  ]);
  expect(client.made).toMatchObject([{ maxSockets: 2, rejectUnauthorized: false }, "destroyed"]);
  await askServer("http://larkholm.invalid").close();
});

test.each<[string, string]>([
  ["larkholm", "write the address of the site, such as http://127.0.0.1:8080/."],
  ["ftp://larkholm.invalid/", "write the address of the site"],
  ["http://larkholm.invalid/?a", "write the address of the site"],
  ["http://larkholm.invalid/#a", "write the address of the site"],
  [
    "http://user@larkholm.invalid/",
    "found a name or password in the address; give it with --header 'Authorization: …'.",
  ],
  ["http://:word@larkholm.invalid/", "found a name or password in the address"],
])("an address that is none: %s", (address, words) => {
  expect(() => askServer(address)).toThrow(
    `--against: found ${words.startsWith("found") ? words.slice(6) : `${JSON.stringify(address)}; ${words}`}`,
  );
});

test("a coding that is just as long as the text is not used", async () => {
  const text = Array.from({ length: 64 }, (_, length) => "a".repeat(length)).find(
    (one) => gzipSync(one, { level: 6 }).length === one.length,
  )!;
  const compressor = makeCompressor(new Memory().open(MADE_CODINGS));
  const made = (bytes: string) =>
    compressor.compress({ address: bytes, version: {} }, "gzip", async () => Buffer.from(bytes));
  expect([await made(text), (await made(`${text}a`))?.length]).toEqual([undefined, text.length]);
});
