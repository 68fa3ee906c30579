import { readFileSync } from "node:fs";
import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import { createServer as createTlsServer } from "node:https";
import { type AddressInfo, createServer as createSocketServer } from "node:net";
import { setTimeout as wait } from "node:timers/promises";
import { gzipSync } from "node:zlib";
import { Ajv } from "ajv";
import { Parser } from "htmlparser2";
import { parse as parseJunit } from "junit2json";
import { Parser as TapParser } from "tap-parser";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { parse as parseYaml } from "yaml";
import { z } from "zod";
import type { Found } from "../../src/core/source.js";
import { memorySource, openSite } from "../../src/index.js";
import type { Case } from "../../src/testing/case.js";
import { compileExpectation } from "../../src/testing/checks/expectation.js";
import { compileFollowUp } from "../../src/testing/checks/follow-ups.js";
import type { FollowUpWritten } from "../../src/testing/format/follow-up-written.js";
import type { Expectation } from "../../src/testing/format/schema-expectation.js";
import { type Asker, askServer, askSite, runCases } from "../../src/testing/index.js";
import { describeFailure, formatFailure } from "../../src/testing/reports/failure.js";
import { reportHar } from "../../src/testing/reports/har.js";
import { reportHtml } from "../../src/testing/reports/html.js";
import { reportJson, reportSchema } from "../../src/testing/reports/json.js";
import { reportJunit } from "../../src/testing/reports/junit.js";
import type { Run } from "../../src/testing/reports/run.js";
import { reportTap } from "../../src/testing/reports/tap.js";
import { openMemory } from "../helpers.js";

const BODY = "The curlew calls at dawn, and at dusk.\n".repeat(60);

/** What a server does at each path: some of it wrong. */
const ANSWERS: Record<string, (request: IncomingMessage, response: ServerResponse) => void> = {
  "/right": ({ headers, method }, response) => {
    const fields = {
      "Content-Type": "text/plain",
      ETag: '"a"',
      Vary: "Accept-Encoding",
      "Cache-Control": "no-cache",
    };
    if (headers["if-none-match"] === '"a"') return void response.writeHead(304, fields).end();
    const [, from, to] = /^bytes=(\d+)-(\d+)$/.exec(headers.range ?? "") ?? [];
    if (from)
      return void response
        .writeHead(206, { ...fields, "Content-Range": `bytes ${from}-${to}/${BODY.length}` })
        .end(BODY.slice(+from, +to! + 1));
    if (headers["accept-encoding"] === "gzip")
      return void response.writeHead(200, { ...fields, "Content-Encoding": "gzip" }).end(gzipSync(BODY));
    response.writeHead(200, fields).end(method === "HEAD" ? "" : BODY);
  },
  "/no-validators": (_, response) => void response.end(BODY),
  "/ignores-conditions": (_, response) =>
    void response.writeHead(200, { ETag: '"a"', "Last-Modified": "Sat, 01 Jan 2000 00:00:00 GMT" }).end(BODY),
  "/forgets-fields": ({ headers }, response) =>
    void response
      .writeHead(
        headers["if-none-match"] ? 304 : 200,
        headers["if-none-match"] ? {} : { ETag: '"a"', "Cache-Control": "no-cache" },
      )
      .end(headers["if-none-match"] ? "" : BODY),
  "/wrong-part": ({ headers }, response) =>
    void response
      .writeHead(headers.range ? 206 : 200, { "Content-Range": "bytes 0-99/9999" })
      .end(headers.range ? BODY.slice(5, 105) : BODY),
  "/other-head": ({ method }, response) =>
    void response
      .writeHead(200, {
        "Content-Type": method === "HEAD" ? "text/html" : "text/plain",
        "Content-Length": method === "HEAD" ? 1 : BODY.length,
        Link: "</x>",
      })
      .end(BODY),
  "/other-coding": ({ headers }, response) =>
    void response
      .writeHead(200, headers["accept-encoding"] ? { "Content-Encoding": "gzip" } : {})
      .end(headers["accept-encoding"] ? gzipSync(`${BODY}!`) : BODY),
  "/not-coded": ({ headers }, response) =>
    void response
      .writeHead(200, {
        Vary: "Accept-Encoding",
        ...(headers["accept-encoding"] && { "Content-Encoding": headers["accept-encoding"] }),
      })
      .end(BODY),
  "/empty": (_, response) => void response.writeHead(204).end(),
  "/never": () => {},
  "/breaks-off": (_, response) => {
    response.writeHead(200, { "Content-Length": 1000 }).write("some");
    setTimeout(() => response.destroy(), 20);
  },
  "/third-time": (() => {
    let asked = 0;
    return (_: IncomingMessage, response: ServerResponse) =>
      void response.writeHead(++asked < 3 ? 503 : 200).end();
  })(),
};

let asker: Asker;
const server = createServer((request, response) =>
  (
    ANSWERS[request.url!] ??
    ((_, other: ServerResponse) =>
      void other.writeHead(404, { "X-Echo": JSON.stringify(request.headers) }).end("none"))
  )(request, response),
);
beforeAll(async () => {
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  asker = askServer(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`, {
    headers: { "X-Every": "each", Accept: "a/b" },
  });
});
afterAll(async () => {
  await asker.close();
  server.closeAllConnections();
  server.close();
});

function makeCase(
  path: string,
  expect: Expectation = {},
  alsoAsk: FollowUpWritten[] = [],
  more: Partial<Case> = {},
): Case {
  const question = { method: "GET", path, headers: {} };
  const base = {
    name: `case ${path}`,
    group: undefined,
    position: "some.yaml:7:5",
    reason: undefined,
    only: undefined,
    retries: undefined,
    timeoutMs: path === "/never" ? 400 : undefined,
  };
  return {
    ...base,
    question,
    checks: compileExpectation(expect, "."),
    followUps: alsoAsk.map(compileFollowUp),
    ...more,
  };
}

const said = async (one: Case): Promise<string[]> => {
  const [result] = await runCases([one], asker);
  return result!.exchanges.flatMap(({ name = "it", differences, because }) => [
    ...(because ? [`${name}: ${because}`] : []),
    ...differences.map(({ about, expected, got }) => `${name}: ${about}: ${expected} / ${got}`),
  ]);
};

describe("follow-ups find what is wrong", () => {
  test.each<[string, FollowUpWritten[], string[]]>([
    ["/right", ["revisit", "head", "range", { range: "bytes=7-9" }, { coding: "gzip" }], []],
    [
      "/no-validators",
      ["revisit"],
      [
        "it: revisit: an answer to ask further about / neither ETag nor Last-Modified, so nobody can ask whether a copy is current",
      ],
    ],
    [
      "/ignores-conditions",
      ["revisit"],
      ["asked again with its entity tag: status: 304 / 200", "asked again with its date: status: 304 / 200"],
    ],
    [
      "/forgets-fields",
      ["revisit"],
      [
        'asked again with its entity tag: ETag: "a" / nothing',
        "asked again with its entity tag: Cache-Control: no-cache / nothing",
      ],
    ],
    [
      "/wrong-part",
      ["range"],
      [
        `asked for bytes=1-100: Content-Range: bytes 1-100/${BODY.length} / bytes 0-99/9999`,
        "asked for bytes=1-100: body: bytes 1 to 100 of the whole / 100 bytes, different from byte 0 (line 1) on",
      ],
    ],
    [
      "/wrong-part",
      [{ range: "bytes=5000-" }],
      ["it: range: an answer to ask further about / a body of 2,340 bytes, and bytes=5000- is not in it"],
    ],
    [
      "/other-head",
      ["head"],
      ["asked with HEAD: Content-Type: text/plain / text/html", "asked with HEAD: Content-Length: 2340 / 1"],
    ],
    [
      "/other-coding",
      ["coding"],
      [
        "asked in the coding br: coding: br / gzip",
        "asked in the coding br: Vary: a list with Accept-Encoding / nothing",
        "asked in the coding br: body: the same content as without the coding / ",
        "asked in the coding gzip: Vary: a list with Accept-Encoding / nothing",
        "asked in the coding gzip: body: the same content as without the coding / ",
      ],
    ],
    [
      "/not-coded",
      [{ coding: "br" }],
      [
        "asked in the coding br: body: the same content as without the coding / a body that is not in the coding br, which Content-Encoding names",
      ],
    ],
    ["/empty", ["range"], ["it: range: an answer to ask further about / an empty body, which has no ranges"]],
  ])("%s %j", async (path, alsoAsk, differences) => {
    const found = await said(makeCase(path, {}, alsoAsk));
    expect(
      found.map((line, index) =>
        differences[index]?.endsWith("/ ") ? line.slice(0, differences[index]!.length) : line,
      ),
    ).toEqual(differences);
  });

  test("nothing further is asked about an answer that is not as expected", async () => {
    const [result] = await runCases([makeCase("/right", { status: 201 }, ["revisit", "head"])], asker);
    expect(result!.exchanges).toHaveLength(1);
  });
});

describe("an answer that does not come is told in plain words", () => {
  test.each<[string, RegExp]>([
    ["/never", /^it: no answer within 0\.4 seconds$/],
    ["/breaks-off", /^it: the connection closed before the answer was complete$/],
  ])("%s", async (path, words) => {
    expect(await said(makeCase(path))).toEqual([expect.stringMatching(words)]);
  });

  test("what is not HTTP, a certificate that nobody vouches for, TLS where there is none", async () => {
    const other = createSocketServer(
      (socket) => void socket.on("error", () => {}).end("feathers\r\n\r\n"),
    ).listen(0, "127.0.0.1");
    await new Promise((done) => other.once("listening", done));
    const port = (other.address() as AddressInfo).port;
    const ask = (address: string, insecureTls = false): Promise<unknown> => {
      const one = askServer(address, { insecureTls });
      return one.ask({ method: "GET", path: "/", headers: {} }).finally(() => one.close());
    };
    await expect(ask(`http://127.0.0.1:${port}`)).rejects.toThrow(/the answer is not HTTP\/1\.1/);
    other.close();
    // Made for this test, for nobody, and good for a hundred years.
    const pem = readFileSync("test/fixtures/self-signed.pem");
    const secure = createTlsServer(
      { cert: pem, key: pem },
      (_, response) => void response.end("safe"),
    ).listen(0, "127.0.0.1");
    await new Promise((done) => secure.once("listening", done));
    const address = `https://127.0.0.1:${(secure.address() as AddressInfo).port}`;
    await expect(ask(address)).rejects.toThrow(
      `${address} is not trusted: its certificate is self-signed; --insecure-tls accepts it anyway`,
    );
    expect(await ask(address, true)).toMatchObject({ status: 200 });
    secure.close();
    const { port: plain } = server.address() as AddressInfo;
    await expect(ask(`https://127.0.0.1:${plain}`)).rejects.toThrow(
      "does not speak TLS; write http: instead of https:",
    );
    await expect(asker.ask({ method: "GET", path: "/", headers: { "A\nB": "c" } })).rejects.toThrow(
      /the request cannot be sent/,
    );
  });
});

test("what is too long to be read is refused in this process too, or read in part", async () => {
  const metadata = { sizeBytes: 300 * 1024 * 1024, modifiedNs: 0n, changedNs: 0n };
  let [opened, closed] = [0, 0];
  const file = {
    metadata,
    read: async () => new Uint8Array(0),
    digest: async () => "",
    close: () => void closed++,
  };
  const open = (): Found => {
    opened++;
    return { kind: "file", file };
  };
  const inside = askSite(await openSite({ mounts: [{ source: { ...memorySource({}), open } }] }));
  const question = { method: "GET", path: "/a.bin", headers: {} };
  await expect(inside.ask(question)).rejects.toThrow(
    /^the body is longer than the limit of \d+ MiB; ask for it with HEAD/,
  );
  expect(await inside.ask({ ...question, readAtMost: 10 })).toMatchObject({
    status: 200,
    isCut: true,
    body: new Uint8Array(0),
  });
  expect(await inside.ask({ ...question, method: "HEAD" })).toMatchObject({
    status: 200,
    body: new Uint8Array(0),
  });
  expect([opened > 2, closed]).toEqual([true, opened]);
});

describe("the runner", () => {
  test("asks again only where it is told to", async () => {
    const [once] = await runCases([makeCase("/third-time", { status: 200 })], asker);
    expect([once!.outcome, once!.attempts]).toEqual(["failed", 1]);
    const [again] = await runCases([makeCase("/third-time", { status: 200 }, [], { retries: 1 })], asker);
    expect([again!.outcome, again!.attempts]).toEqual(["passed", 2]);
  });

  test("sends the fields of every request, and a case's own go before them", async () => {
    const [result] = await runCases(
      [makeCase("/x", {}, [], { question: { method: "GET", path: "/x", headers: { accept: "c/d" } } })],
      asker,
    );
    expect(JSON.parse(result!.exchanges[0]!.reply!.headers["x-echo"]!)).toMatchObject({
      "x-every": "each",
      accept: "c/d",
    });
  });

  test("keeps the order of the cases, however many run at a time, and stops where it is told to", async () => {
    let atOnce = 0;
    let most = 0;
    const slow: Asker = {
      about: "slow",
      address: "http://slow.invalid",
      concurrency: 3,
      async ask({ path }) {
        most = Math.max(most, ++atOnce);
        await wait(path.length % 3);
        atOnce--;
        return {
          status: path === "/bbbb" ? 500 : 200,
          headers: {},
          body: new Uint8Array(0),
          inside: undefined,
        };
      },
      async close() {},
    };
    const cases = Array.from({ length: 12 }, (_, index) =>
      makeCase(`/${"b".repeat(index + 1)}`, { status: 200 }),
    );
    const all = await runCases(cases, slow);
    expect(all.map(({ case: one }) => one)).toEqual(cases);
    expect([most, all.map(({ outcome }) => outcome).filter((one) => one === "failed").length]).toEqual([
      3, 1,
    ]);
    const some = await runCases(cases, slow, { stopAtFailure: true, concurrency: 1 });
    expect(some.map(({ outcome }) => outcome)).toEqual([
      ...Array(3).fill("passed"),
      "failed",
      ...Array(8).fill("skipped"),
    ]);
    expect(some.at(-1)!.because).toBe("not asked: an earlier case had failed");
  });
});

describe("reports", () => {
  const XML = /[^\t\n\r -\ud7ff\ue000-\ufffd]/;
  let run: Run;
  beforeAll(async () => {
    const site = askSite(await openMemory({ "index.html": "home <&>", "late.txt": "x" }));
    const cases = [
      makeCase("/", { status: 200, mediaType: "text/html" }, ["revisit"], {
        group: "pages",
        name: "the front page # 1 \\ 2",
      }),
      makeCase(
        "/",
        { headers: { "Cache-Control": "max-age=31536000" }, body: { contains: "<nobody>" } },
        [],
        { group: "pages", name: "it is kept \x1b[31m]]> & 'so' \"on\" \u202e" },
      ),
      makeCase("/late.txt", { mediaType: "text/html" }, [], { reason: "RFC 9110 §8.3", position: undefined }),
      makeCase("/x", {}, [], { only: "over the network" }),
    ];
    const results = await runCases(cases, site, { keepTexts: true });
    const unanswered = await runCases([makeCase("/never")], asker);
    run = {
      title: "some.yaml",
      about: "in process",
      address: "http://in-process.invalid",
      inProcess: true,
      startedAt: Date.UTC(2026, 10, 25),
      milliseconds: 12,
      results: [...results, ...unanswered],
    };
  });

  // What a server answers is shown in a terminal, whatever the form of the report.
  test.each<[string, (runs: readonly Run[]) => string]>([
    ["TAP", reportTap],
    ["JSON", (runs) => reportJson(runs)],
    ["JUnit", reportJunit],
    ["HAR", (runs) => reportHar(runs, "1")],
  ])("nothing that a server answers does anything to a terminal: %s", (_form, report) => {
    const odd = "a\u009b31mb\u202e\u0007c";
    const [failed] = run.results.filter(({ outcome }) => outcome === "failed");
    const exchanges = failed!.exchanges.map((one) => ({
      ...one,
      differences: one.differences.map((difference) => ({ ...difference, got: odd, expected: odd })),
      because: odd,
    }));
    const text = report([
      {
        ...run,
        results: [{ ...failed!, case: { ...failed!.case, name: odd, reason: odd }, exchanges, because: odd }],
      },
    ] as never);
    expect(text.replace(/\n/g, "")).not.toMatch(/[\p{Cc}\p{Cf}]/u);
  });

  test("TAP 14", () => {
    const events: string[] = [];
    const parser = new TapParser();
    parser.on("assert", ({ ok, id, name, skip, diag }) =>
      events.push(`${ok} ${id} ${name}${skip ? ` skip ${skip}` : ""}${diag ? ` ${diag.message}` : ""}`),
    );
    const text = reportTap([run]);
    parser.end(text);
    expect([
      parser.ok,
      parser.count,
      parser.fail,
      parser.skip,
      parser.failures.filter(({ tapError }: { tapError?: unknown }) => tapError),
    ]).toEqual([false, 5, 3, 1, []]);
    expect(events).toEqual([
      "true 1 pages: the front page # 1 \\ 2",
      "false 2 pages: it is kept \\u{1b}[31m]]> & 'so' \"on\" \\u{202e} Cache-Control: expected max-age=31536000, got no-cache",
      "false 3 case /late.txt media type: expected text/html, got text/plain",
      "true 4 case /x skip asked over the network only",
      "false 5 case /never no answer within 0.4 seconds",
    ]);
    const block = parseYaml(/ {2}---\n([\s\S]*?)\n {2}\.\.\./.exec(text)![1]!);
    expect(block).toMatchObject({
      at: "some.yaml:7:5",
      differences: [{ about: "Cache-Control", got: "no-cache" }, { about: "body" }],
    });
  });

  test("JUnit XML", async () => {
    const text = reportJunit([run]);
    expect(text).not.toMatch(XML);
    const report = (await parseJunit(text)) as {
      tests: number;
      failures: number;
      errors: number;
      testsuite: {
        name: string;
        skipped: number;
        testcase: {
          name: string;
          classname: string;
          failure?: { message: string; inner: string }[];
          error?: unknown[];
          skipped?: unknown[];
        }[];
      }[];
    };
    expect([report.tests, report.failures, report.errors]).toEqual([5, 2, 1]);
    expect(report.testsuite.map(({ name, testcase }) => [name, testcase.length])).toEqual([
      ["some.yaml: pages", 2],
      ["some.yaml", 3],
    ]);
    const [kept] = report.testsuite[0]!.testcase.slice(1);
    expect(kept).toMatchObject({
      name: "it is kept \\u{1b}[31m]]> & 'so' \"on\" \\u{202e}",
      file: "some.yaml",
      failure: [{ message: "Cache-Control: expected max-age=31536000, got no-cache" }],
    });
    expect(kept!.failure![0]!.inner).toContain('body           expected  a text with "<nobody>"');
    expect(
      report.testsuite[1]!.testcase.map(({ failure, error, skipped }) => [
        failure?.length,
        error?.length,
        skipped?.length,
      ]),
    ).toEqual([
      [1, undefined, undefined],
      [undefined, undefined, 1],
      [undefined, 1, undefined],
    ]);
  });

  test("JSON, by its published schema", () => {
    const report = JSON.parse(reportJson([run]));
    const validate = new Ajv({ allowUnionTypes: true }).compile(
      z.toJSONSchema(reportSchema, { io: "input", target: "draft-7" }),
    );
    expect([validate(report), validate.errors]).toEqual([true, null]);
    expect(report).toMatchObject({
      version: 1,
      total: 5,
      passed: 1,
      failed: 3,
      unanswered: 1,
      skipped: 1,
      runs: [
        {
          cases: [
            { outcome: "passed", exchanges: [{}, { name: "asked again with its entity tag" }, {}] },
            {},
            {},
            {},
            { outcome: "unanswered" },
          ],
        },
      ],
    });
  });

  test("HAR 1.2, by its schema", async () => {
    const har = JSON.parse(reportHar([run], "0.1.0"));
    type Schemas = { default: Record<string, { $id: string; $schema?: string }> };
    // @ts-expect-error The package has no types.
    const schemas: Schemas = await import("har-schema");
    const ajv = new Ajv({ strict: false, validateFormats: false });
    for (const { $schema: _, ...schema } of Object.values(schemas.default)) ajv.addSchema(schema);
    const validate = ajv.getSchema("har.json#") ?? ajv.getSchema("har.json")!;
    expect([validate(har), validate.errors]).toEqual([true, null]);
    expect(
      har.log.entries.map(
        ({ request, response }: { request: { url: string }; response: { status: number } }) =>
          `${request.url} ${response.status}`,
      ),
    ).toEqual([
      "http://in-process.invalid/ 200",
      "http://in-process.invalid/ 304",
      "http://in-process.invalid/ 304",
      "http://in-process.invalid/ 200",
      "http://in-process.invalid/late.txt 200",
      "http://in-process.invalid/never 0",
    ]);
    expect(har.log.entries[0].response.content).toMatchObject({
      text: "home <&>",
      size: 8,
      mimeType: "text/html; charset=utf-8",
    });
  });

  test("HTML: whole, by itself, and with nothing of a name or a value taken for markup", () => {
    const html = reportHtml([run]);
    const open: string[] = [];
    const seen = new Set<string>();
    const empty = new Set(["meta", "br", "input"]);
    const parser = new Parser({
      onopentag(name, attributes) {
        seen.add(name);
        expect(Object.keys(attributes).filter((key) => /^on|^src$/.test(key))).toEqual([]);
        expect(attributes.href ?? "#").toMatch(/^#/);
        if (!empty.has(name)) open.push(name);
      },
      onclosetag(name, implied) {
        if (!empty.has(name)) expect([open.pop(), implied]).toEqual([name, false]);
      },
    });
    parser.end(html);
    expect(open).toEqual([]);
    expect([seen.has("nobody"), seen.has("script"), seen.has("mark")]).toEqual([false, false, true]);
    expect(html).toContain("<title>3 of 5 failed: expectations</title>");
    expect(html).not.toMatch(/\x1b|\u202e/);
  });

  test("HTML of 500 failures: each cause once, all cases linked, and small", () => {
    const failing = run.results.filter(({ outcome }) => outcome === "failed");
    const results = Array.from({ length: 500 }, (_, i) => {
      const one = failing[i % failing.length]!;
      return { ...one, case: { ...one.case, question: { ...one.case.question, path: `/page-${i}.html` } } };
    });
    const html = reportHtml([{ ...run, results }]);
    expect([html.length < 300_000, (html.match(/<[a-z]/g) ?? []).length < 5000]).toEqual([true, true]);
    const ids = [...html.matchAll(/ id="([^"]+)"/g)].map(([, id]) => id);
    const links = [...html.matchAll(/href="#([^"]+)"/g)].map(([, id]) => id);
    expect([links.length > 5, links.filter((id) => !ids.includes(id)), new Set(ids).size]).toEqual([
      true,
      [],
      ids.length,
    ]);
    expect(html).toContain(`What failed: ${failing.length} cause`);
  });

  test("in the terminal's words: what failed, and how the answer came about", () => {
    expect(formatFailure(describeFailure(run.results[2]!))).toBe(
      [
        "request     GET /late.txt",
        "media type  expected  text/html",
        "            got       text/plain",
        "                           ^^^^^",
        "mount       /  from memory  path: late.txt",
        "tried       exact file  late.txt  a file",
        "set by      Content-Type  text/plain; charset=utf-8  .txt in the built-in table; charset: default",
        "why         the file of that name",
        "reason      RFC 9110 §8.3",
      ].join("\n"),
    );
  });
});
