import { type AddressInfo, createServer, type Socket } from "node:net";
import { setTimeout as wait } from "node:timers/promises";
import fc from "fast-check";
import { expect, test, vi } from "vitest";
import { type ReadMessage, readMessage } from "../../src/testing/ask/message.js";
import { placeOf } from "../../src/testing/ask/request.js";
import { askServer } from "../../src/testing/index.js";

const OK = "HTTP/1.1 200 OK\r\n";
const CHUNKED = `${OK}Transfer-Encoding: chunked\r\n\r\n`;
const INTERIM = "HTTP/1.1 103 Early Hints\r\nLink: </a>\r\n\r\n";
type Expected = Partial<Omit<ReadMessage, "body">> & { readonly body?: string };

// Bytes of a response as they came, and what they say (RFC 9112).
test.each<[title: string, bytes: string, method: string, hasEnded: boolean, expected: Expected | undefined]>([
  ["nothing yet", "", "GET", false, undefined],
  ["half a head", `${OK}Content-Le`, "GET", false, undefined],
  ["no message of HTTP", "SSH-2.0\r\n\r\n", "GET", true, undefined],
  [
    "a head without a body",
    `${OK}Content-Length: 0\r\n\r\n`,
    "GET",
    false,
    {
      status: 200,
      httpVersion: "1.1",
      body: "",
      isWhole: true,
      excess: 0,
      lacking: 0,
      lines: [["Content-Length", "0"]],
    },
  ],
  [
    "no reason phrase",
    "HTTP/1.0 404\r\nContent-Length: 1\r\n\r\nx",
    "GET",
    false,
    { status: 404, httpVersion: "1.0", body: "x", isWhole: true },
  ],
  [
    "line feeds alone, §2.2",
    "HTTP/1.1 200 OK\nA: b\nContent-Length: 1\n\nx",
    "GET",
    false,
    { body: "x", isWhole: true },
  ],
  [
    "lines that are no fields are passed over",
    `${OK}: none\r\n folded\r\nA :  b \r\nContent-Length: 0\r\n\r\n`,
    "GET",
    false,
    {
      lines: [
        ["A", "b"],
        ["Content-Length", "0"],
      ],
    },
  ],
  [
    "bytes that are missing",
    `${OK}Content-Length: 5\r\n\r\nab`,
    "GET",
    false,
    { body: "ab", isWhole: false, lacking: 0 },
  ],
  [
    "bytes that never come",
    `${OK}Content-Length: 5\r\n\r\nab`,
    "GET",
    true,
    { body: "ab", isWhole: false, lacking: 3, excess: 0 },
  ],
  [
    "bytes too many",
    `${OK}Content-Length: 2\r\n\r\nabcd`,
    "GET",
    false,
    { body: "ab", isWhole: true, excess: 2 },
  ],
  [
    "a length that is none: up to the end",
    `${OK}Content-Length: two\r\n\r\nabcd`,
    "GET",
    true,
    { body: "abcd", isWhole: true, excess: 0 },
  ],
  ["no length: up to the end, §6.3 step 8", `${OK}\r\nabcd`, "GET", false, { body: "abcd", isWhole: false }],
  [
    "an answer to HEAD, step 1",
    `${OK}Content-Length: 5\r\n\r\n`,
    "HEAD",
    false,
    { body: "", isWhole: true, excess: 0, lacking: 0 },
  ],
  [
    "an answer to HEAD with a body",
    `${OK}Content-Length: 5\r\n\r\nabcde`,
    "HEAD",
    false,
    { body: "", isWhole: true, excess: 5 },
  ],
  [
    "204 and 304 have none",
    "HTTP/1.1 304 Not Modified\r\nContent-Length: 5\r\n\r\n",
    "GET",
    false,
    { status: 304, body: "", isWhole: true, excess: 0 },
  ],
  ["204", "HTTP/1.1 204 No Content\r\n\r\nx", "GET", false, { status: 204, body: "", excess: 1 }],
  [
    "chunks, §7.1",
    `${CHUNKED}3;name=value\r\nabc\r\nA\r\n0123456789\r\n0\r\n\r\n`,
    "GET",
    false,
    { body: "abc0123456789", isWhole: true, excess: 0, chunks: undefined },
  ],
  [
    "chunks before a length, step 3",
    `${OK}Content-Length: 1\r\nTransfer-Encoding: gzip, Chunked \r\n\r\n1\r\na\r\n0\r\n\r\nmore`,
    "GET",
    false,
    { body: "a", excess: 4 },
  ],
  [
    "trailers",
    `${CHUNKED}1\r\na\r\n0\r\nDigest: x\r\nB: c\r\n\r\n`,
    "GET",
    false,
    { body: "a", isWhole: true, excess: 0 },
  ],
  [
    "half of the trailers",
    `${CHUNKED}1\r\na\r\n0\r\nDigest: x\r\n`,
    "GET",
    false,
    { body: "a", isWhole: false, chunks: undefined },
  ],
  [
    "half of a chunk",
    `${CHUNKED}1\r\na\r\n5\r\nab`,
    "GET",
    false,
    { body: "a", isWhole: false, chunks: undefined },
  ],
  ["half of a size", `${CHUNKED}1\r\na\r\n5`, "GET", false, { body: "a", isWhole: false }],
  [
    "no last chunk",
    `${CHUNKED}1\r\na\r\n`,
    "GET",
    true,
    { body: "a", isWhole: false, chunks: "there is no last chunk of size 0" },
  ],
  [
    "an invalid size",
    `${CHUNKED}1\r\na\r\nxyz\r\n`,
    "GET",
    false,
    { body: "a", isWhole: true, chunks: 'an invalid size: "xyz"' },
  ],
  [
    "a chunk that is longer than its size",
    `${CHUNKED}1\r\nabc\r\n0\r\n\r\n`,
    "GET",
    false,
    { isWhole: true, chunks: "one is not followed by a line break" },
  ],
  [
    "interim responses, RFC 9110 §15.2",
    `${INTERIM.repeat(20)}${OK}Content-Length: 1\r\n\r\nx`,
    "GET",
    false,
    { status: 200, body: "x", lines: [["Content-Length", "1"]] },
  ],
  ["interim responses without an end", INTERIM.repeat(30), "GET", false, undefined],
  ["an interim response alone", INTERIM, "GET", false, undefined],
  [
    "another protocol is final",
    "HTTP/1.1 101 Switching Protocols\r\n\r\nrest",
    "GET",
    true,
    { status: 101, body: "rest" },
  ],
])("%s", (_title, bytes, method, hasEnded, expected) => {
  const read = readMessage(Buffer.from(bytes, "latin1"), method, hasEnded);
  if (expected === undefined) expect(read).toBeUndefined();
  else expect({ ...read, body: read?.body.toString("latin1") }).toMatchObject(expected);
});

test("a message that has its length is whole with its last byte, and not before, however it is cut", () => {
  const body = fc.stringMatching(/^[a-z]{0,40}$/);
  fc.assert(
    fc.property(body, fc.boolean(), fc.nat(), (text, isChunked, at) => {
      const whole = isChunked
        ? `${CHUNKED}${text === "" ? "" : `${text.length.toString(16)}\r\n${text}\r\n`}0\r\n\r\n`
        : `${OK}Content-Length: ${text.length}\r\n\r\n${text}`;
      expect(readMessage(Buffer.from(whole), "GET", false)).toMatchObject({
        isWhole: true,
        body: Buffer.from(text),
        excess: 0,
      });
      const cut = at % whole.length;
      expect(readMessage(Buffer.from(whole.slice(0, cut)), "GET", false)?.isWhole ?? false).toBe(false);
    }),
  );
});

test.each([
  ["http://larkholm.invalid/", "larkholm.invalid", 80],
  ["https://larkholm.invalid/", "larkholm.invalid", 443],
  ["https://[::1]:8443/", "::1", 8443],
])("the place behind %s", (address, host, port) => {
  expect(placeOf(new URL(address))).toEqual({ host, port });
});

/** Sends these pieces, each a while after the one before, and leaves the connection open. */
const slowly =
  (...pieces: string[]) =>
  async (socket: Socket): Promise<void> => {
    for (const piece of pieces) {
      socket.write(piece, "latin1");
      await wait(200);
    }
  };

test.each<[title: string, answer: (socket: Socket) => unknown, expected: object | RegExp]>([
  [
    "a whole answer, and then nothing",
    slowly(`${OK}Content-Length: 2\r\n\r\nab`),
    { status: 200, body: "ab", excess: 0 },
  ],
  [
    "one in two pieces",
    slowly(`${OK}Content-Length: 4\r\n\r\nab`, "cd"),
    { status: 200, body: "abcd", excess: 0, lacking: 0 },
  ],
  ["more than there is", slowly(`${OK}Content-Length: 2\r\n\r\nabcd`), { body: "ab", excess: 2 }],
  [
    "less, and the end",
    (socket) => socket.end(`${OK}Content-Length: 4\r\n\r\nab`),
    { body: "ab", lacking: 2 },
  ],
  [
    "nothing, and the end",
    (socket) => socket.end(),
    /^the connection closed before the answer was complete$/,
  ],
  ["no HTTP", (socket) => socket.end("feathers"), /^the answer is not HTTP\/1\.1 \("feathers"\)$/],
  ["nothing at all", () => {}, /^no answer within 0\.9 seconds$/],
])("what comes over a socket of its own: %s", async (_title, answer, expected) => {
  let received = "";
  const server = createServer((socket) => {
    socket.on("error", () => {}).on("data", (chunk) => (received += chunk));
    socket.once("data", () => void answer(socket));
  }).listen(0, "127.0.0.1");
  await new Promise((done) => server.once("listening", done));
  const host = `127.0.0.1:${(server.address() as AddressInfo).port}`;
  // A busy machine may take its time; only one of them waits for the end of it.
  const asker = askServer(`http://${host}/birds/`, {
    timeoutMs: String(expected).includes("seconds") ? 900 : 10_000,
  });
  const question = {
    method: "POST",
    path: "/a",
    headers: { "X-Season": ["spring", "autumn"] },
    body: "née",
    ownSocket: true,
  };
  const asked = asker.ask(question);
  if (expected instanceof RegExp) await expect(asked).rejects.toThrow(expected);
  else {
    const { status, body, wire } = await asked;
    expect({ status, body: Buffer.from(body).toString(), ...wire!.message }).toMatchObject(expected);
    expect(wire!.firstByteMilliseconds).toBeGreaterThan(0);
  }
  expect(Buffer.from(received, "utf8").toString()).toBe(
    `POST /birds/a HTTP/1.1\r\nHost: ${host}\r\nContent-Length: 4\r\nUser-Agent: epistyle\r\nX-Season: spring\r\nX-Season: autumn\r\nConnection: close\r\n\r\nnée`,
  );
  asker
    .ask({ ...question, headers: { host: "a", "content-length": "4" } }, { timeoutMs: 2000 })
    .catch(() => {});
  await vi.waitFor(
    () => expect(received).toContain("\r\nhost: a\r\ncontent-length: 4\r\nConnection: close\r\n"),
    10_000,
  );
  server.close();
});
