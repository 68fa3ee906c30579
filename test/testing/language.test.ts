import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import * as z from "zod";
import { picture } from "../../banks/survey-bank/good.mjs";
import { expectationsSchema } from "../../src/testing/format/schema.js";
import {
  askServer,
  expandCases,
  loadExpectations,
  makeTemporaryTree,
  runCases,
  type TemporaryTree,
} from "../../src/testing/index.js";
import { describeFailure, formatFailure } from "../../src/testing/reports/failure.js";

// What an expectations file can say, asked of a server of its own: each row holds, and its opposite says why it does not.
let server: Server;
let address: string;
let tree: TemporaryTree;
let asked: string[] = [];
const BIRDS = {
  birds: [
    { name: "Heron", count: 3 },
    { name: "Curlew", count: 12 },
  ],
  place: "Larkholm",
  note: null,
};
const PARTS =
  "--b\r\nContent-Range: bytes 0-3/9\r\n\r\nhero\r\n--b\r\nContent-Range: bytes 5-8/9\r\n\r\nwren\r\n--b--\r\n";
let turn = 0;

beforeAll(async () => {
  tree = await makeTemporaryTree({ "plain.txt": "x" });
  server = createServer((request, response) => {
    let sent = "";
    request.on("data", (chunk) => (sent += chunk));
    request.on("end", () => {
      asked.push(`${request.method} ${request.url} ${sent}`.trim());
      const send = (
        status: number,
        fields: Record<string, string | string[]>,
        body: string | Buffer = "",
      ): void => void response.writeHead(status, fields).end(body);
      const page = { "Content-Type": "text/html; charset=utf-8" };
      const { pathname } = new URL(request.url!, "http://x.invalid");
      if (pathname === "/")
        return send(
          200,
          { ...page, Age: "12", Vary: "Accept" },
          '<title>Larkholm</title><script src="/app-5f3a.js"></script><p>heron</p><p>heron</p>',
        );
      if (pathname === "/same")
        return send(
          200,
          page,
          '<title>Larkholm</title><script src="/app-5f3a.js"></script><p>heron</p><p>heron</p>',
        );
      if (pathname === "/app-5f3a.js") return send(200, { "Content-Type": "text/javascript" }, "run()");
      if (pathname === "/birds.json")
        return send(200, { "Content-Type": "application/json" }, JSON.stringify(BIRDS));
      if (pathname === "/heron") return send(200, page, "<p>one heron");
      if (pathname === "/cookie")
        return send(200, { ...page, "Set-Cookie": ["a=1; HttpOnly; SameSite=Lax; Path=/", "b=2"] }, "x");
      if (pathname === "/twice") return send(200, { ...page, "X-Two": ["1", "2"] }, "x");
      if (pathname === "/picture") return send(200, { "Content-Type": "image/png" }, picture(40, 90));
      if (pathname === "/parts")
        return send(206, { "Content-Type": "multipart/byteranges; boundary=b" }, PARTS);
      if (pathname === "/post")
        return send(
          201,
          { ...page, Location: "/heron", "X-Got": sent, "X-Accept": request.headers["x-list"] ?? "" },
          sent,
        );
      if (pathname === "/turn") return send(turn++ % 10 === 3 ? 503 : 200, page, "x");
      if (pathname === "/slow") return void setTimeout(() => send(200, page, "x"), 150);
      if (request.method === "OPTIONS") return send(204, { Allow: "GET" });
      const steps: Record<string, string> = {
        "/one": "/two",
        "/two": "/heron",
        "/loop": "/loop",
        "/away": "http://other.invalid/x",
        "/gone": "/nothing",
      };
      if (steps[pathname] !== undefined) return send(302, { Location: steps[pathname] });
      return send(404, page, "<p>none");
    });
  });
  await new Promise<void>((done) => void server.listen(0, "127.0.0.1", done));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
});
afterAll(async () => {
  server.close();
  server.closeAllConnections();
  await tree.close();
});

async function run(text: string) {
  await tree.write({ "e.yaml": text });
  asked = [];
  const asker = askServer(address);
  try {
    const listed = async () =>
      ["/", "/heron", "/birds.json"].map((path) => ({ kind: "file" as const, path }));
    return await runCases(
      await expandCases(await loadExpectations(`${tree.folder}/e.yaml`, { address }), listed),
      asker,
    );
  } finally {
    await asker.close();
  }
}

const one = (body: string): string => `version: 1\ncases:\n  - ${body}`;

describe("what can be said", () => {
  test.each<[what: string, holds: string, doesNot: string, message: string]>([
    [
      "several addresses",
      "request: [/, /heron]\n    expect: { status: 200 }",
      "request: [/, /none]\n    expect: { status: 200 }",
      "expected 200 got 404",
    ],
    [
      "several paths of a group of keys",
      "request: { path: [/, /heron], headers: { Accept: text/html } }\n    expect: { status: 200 }",
      "request: { path: [/, /none] }\n    expect: { status: 200 }",
      "GET /none",
    ],
    [
      "each, where links tell what there is",
      "each: '*'\n    expect: { status: 200 }",
      "each: '*'\n    expect: { mediaType: text/html }",
      "got application/json",
    ],
    [
      "a class of statuses",
      "request: /heron\n    expect: { status: 2xx }",
      "request: /none\n    expect: { status: [2xx, 301] }",
      "expected 2xx or 301 got 404",
    ],
    [
      "where redirects lead",
      "request: /one\n    expect: { leadsTo: /heron }",
      "request: /one\n    expect: { leadsTo: { address: /heron, steps: 1 } }",
      "expected /heron, in at most 1 step got 2 steps: /one → /two → /heron",
    ],
    [
      "a loop",
      "request: /two\n    expect: { leadsTo: { address: /heron, steps: 1 } }",
      "request: /loop\n    expect: { leadsTo: /heron }",
      "/loop → /loop, which redirects to itself",
    ],
    [
      "what is at the end of the way",
      "request: /one\n    expect: { status: 302, leadsTo: /heron }",
      "request: /gone\n    expect: { leadsTo: /nothing }",
      "/gone → /nothing, which answers with 404",
    ],
    [
      "another site",
      "request: /away\n    expect: { leadsTo: 'http://other.invalid/x' }",
      "request: /away\n    expect: { leadsTo: /heron }",
      "/away → http://other.invalid/x, another site",
    ],
    [
      "no redirect",
      "request: /two\n    expect: { redirect: /heron }",
      "request: /heron\n    expect: { leadsTo: / }",
      "no redirect: 200",
    ],
    [
      "a remembered value",
      "request: /\n    remember: { bundle: { matches: 'src=\"([^\"]+)\"' } }\n    next: [{ request: '${bundle}', expect: { mediaType: text/javascript } }]",
      "request: /\n    remember: { bundle: { matches: 'href=\"([^\"]+)\"' } }\n    next: [{ request: '${bundle}', expect: { status: 200 } }]",
      'expected a value for bundle, from the body by /href="([^"]+)"/ got no match',
    ],
    [
      "a value of JSON, in two steps",
      "request: /birds.json\n    remember: { name: { pointer: /birds/0/name } }\n    next: [{ request: '/one?name=${name}', remember: { to: { field: Location } } , expect: { status: 302 } }, { request: '${to}', expect: { status: 302, redirect: /heron } }]",
      "request: /birds.json\n    remember: { name: { pointer: /birds/0/name } }\n    next: [{ request: '/none?name=${name}', expect: { status: 200 } }]",
      "GET /none?name=Heron",
    ],
    [
      "a value of a field that is not there",
      "request: /one\n    remember: { to: { field: Location } }\n    next: [{ request: 'HEAD ${to}', expect: { status: 302 } }]",
      "request: /heron\n    remember: { to: { field: Location } }\n    next: [{ request: '${to}' }]",
      "expected a value for to, from the field Location got no field Location",
    ],
    [
      "another site is not asked",
      "request: /heron\n    next: [{ request: /, expect: { status: 200 } }]",
      "request: /away\n    remember: { to: { field: Location } }\n    next: [{ request: '${to}' }]",
      "expected an address of this site to ask next got http://other.invalid/x",
    ],
    [
      "what a field must not match",
      "request: /\n    expect: { headers: { Vary: { matchesNot: Cookie } } }",
      "request: /\n    expect: { headers: { Vary: { matchesNot: { pattern: accept, flags: i } } } }",
      "expected no match of /accept/i got Accept",
    ],
    [
      "bounds of a field",
      "request: /\n    expect: { headers: { Age: { atLeast: 10, atMost: 20 } } }",
      "request: /\n    expect: { headers: { Age: { atMost: 5 } } }",
      "expected a number, at most 5 got 12",
    ],
    [
      "a field that comes once",
      "request: /\n    expect: { headers: { Vary: { once: true } } }",
      "request: /twice\n    expect: { headers: { X-Two: { once: true } } }",
      "expected one line got 2 lines: 1 | 2",
    ],
    [
      "cookies",
      "request: /cookie\n    expect: { cookies: { a: { httpOnly: true, sameSite: Lax, path: /, value: '1' }, c: { present: false } } }",
      "request: /cookie\n    expect: { cookies: { b: { httpOnly: true } } }",
      "cookie b expected HttpOnly got no HttpOnly",
    ],
    [
      "no cookies",
      "request: /\n    expect: { cookies: none }",
      "request: /cookie\n    expect: { cookies: none }",
      "cookies expected none got a, b",
    ],
    [
      "the version of HTTP",
      "request: /\n    expect: { httpVersion: '1.1' }",
      "request: /\n    expect: { httpVersion: '1.0' }",
      "HTTP version expected 1.0 got 1.1",
    ],
    [
      "how soon it begins",
      "request: /slow\n    expect: { firstByte: { atMost: 9s } }",
      "request: /slow\n    expect: { firstByte: { atMost: 20ms } }",
      "first byte expected within 20ms got after 1",
    ],
    [
      "what the body must not match, with flags",
      "request: /\n    expect: { body: { matches: { pattern: HERON, flags: i }, matchesNot: curlew } }",
      "request: /\n    expect: { body: { matchesNot: 'her.n' } }",
      'expected no match of /her.n/ got one: "heron"',
    ],
    [
      "how often a text is there",
      "request: /\n    expect: { body: { count: { <p>: 2, heron: { atLeast: 1 } } } }",
      "request: /\n    expect: { body: { count: { <p>: 3 } } }",
      'expected "<p>" 3 times got 2 times',
    ],
    [
      "bounds of the length",
      "request: /heron\n    expect: { body: { length: { atLeast: 5, atMost: 50 } } }",
      "request: /heron\n    expect: { body: { length: { atMost: 5 } } }",
      "expected at most 5 bytes got 12 bytes",
    ],
    [
      "the same content",
      "request: /\n    expect: { body: { sameAs: /same } }",
      "request: /\n    expect: { body: { sameAs: /heron } }",
      "expected the content of / got",
    ],
    [
      "places in JSON",
      "request: /birds.json\n    expect: { body: { jsonAt: { /birds: { contains: { name: Curlew }, count: 2 }, /birds/1/count: { type: integer, atLeast: 10 }, /place: { matches: '^L' }, /note: { type: 'null' }, /none: { present: false } } } }",
      "request: /birds.json\n    expect: { body: { jsonAt: { /birds: { contains: { name: Tern } } } } }",
      'expected at /birds a list or a text with {"name":"Tern"} got [{"name":"Heron"',
    ],
    [
      "types in JSON",
      "request: /birds.json\n    expect: { body: { jsonAt: { /birds/0: { equals: { count: 3 } } } } }",
      "request: /birds.json\n    expect: { body: { jsonAt: { /birds/0/name: { type: number } } } }",
      'expected at /birds/0/name a value of the type number got "Heron"',
    ],
    [
      "the size of a picture",
      "request: /picture\n    expect: { body: { picture: { width: 40, height: { atMost: 2 } } } }",
      "request: /picture\n    expect: { body: { picture: { width: 80 } } }",
      "expected a picture 80 wide (pixels) got 40 wide, 1 high",
    ],
    [
      "parts and their fields",
      "request: /parts\n    expect: { parts: [{ headers: { Content-Range: bytes 0-3/9 }, contains: hero }, { length: 4 }] }",
      "request: /parts\n    expect: { parts: [{ headers: { Content-Range: bytes 0-3/9 } }, { headers: { Content-Range: bytes 4-7/9 } }] }",
      "part 2 expected Content-Range: bytes 4-7/9 got bytes 5-8/9",
    ],
    [
      "a body and several lines of a field",
      "request: { method: POST, path: /post, body: heron, headers: { X-List: [a, b] } }\n    expect: { status: 201, headers: { X-Got: heron, X-Accept: 'a, b' } }",
      "request: { method: POST, path: /post, body: wren }\n    expect: { headers: { X-Got: heron } }",
      "expected heron got wren",
    ],
    [
      "OPTIONS *",
      "request: OPTIONS *\n    expect: { status: 204 }",
      "request: OPTIONS *\n    expect: { status: 200 }",
      "expected 200 got 204",
    ],
    [
      "many at once",
      "request: /heron\n    times: 50\n    atOnce: 10\n    expect: { status: 200 }",
      "request: /turn\n    times: 50\n    atOnce: 10\n    expect: { status: 200 }",
      "5 of 50",
    ],
  ])("%s", async (_what, holds, doesNot, message) => {
    const [right, wrong] = [await run(one(holds)), await run(one(doesNot))];
    expect(
      right.map(({ outcome, exchanges, because }) => [
        outcome,
        because,
        exchanges.flatMap(({ differences, because: no }) => [
          ...differences,
          ...(no === undefined ? [] : [no]),
        ]),
      ]),
    ).toEqual(right.map(() => ["passed", undefined, []]));
    const failed = wrong.filter(({ outcome }) => outcome === "failed");
    expect(failed.length).toBeGreaterThan(0);
    expect(
      failed.map((result) => formatFailure(describeFailure(result)).replace(/\s+/g, " ")).join("\n"),
    ).toContain(message);
  });

  test("a target in absolute form goes out as it is written", async () => {
    const [result] = await run(one(`request: GET ${address}heron\n    expect: { status: 200 }`));
    expect([result!.outcome, asked]).toEqual(["passed", [`GET ${address}heron`]]);
  });

  test("what a group expects is taken back", async () => {
    const group = (expected: string) =>
      `version: 1\ngroups:\n  - name: g\n    expect: { status: 200, caching: revalidated each time, headers: { Vary: Accept, Age: '1' }, body: { contains: none, lacks: wren } }\n    cases:\n      - request: /\n        expect: { except: [${expected}] }`;
    expect((await run(group("caching, headers.age, body.contains"))).map(({ outcome }) => outcome)).toEqual([
      "passed",
    ]);
    await expect(run(group("headers.etag"))).rejects.toThrow(
      'expect.except: found "headers.etag", which the group does not expect; leave it out.',
    );
    await expect(run(group("cookies"))).rejects.toThrow(
      'expect.except: found "cookies", which the group does not expect; leave it out.',
    );
  });
});

test("what matches no file, and a whole address of the site that a redirect leads to", async () => {
  const [none] = await run(one("each: '*.owl'\n    expect: { status: 200 }"));
  expect([
    none!.outcome,
    none!.exchanges.map(({ differences }) =>
      differences.map(({ about, expected, got }) => `${about}: ${expected} / ${got}`),
    ),
    asked,
  ]).toEqual(["failed", [[expect.stringContaining('match "*.owl"')]], []]);
  const [there] = await run(one(`request: /one\n    expect: { leadsTo: "\${address}/heron" }`));
  expect(there!.outcome).toBe("passed");
});

test("each of several addresses is a case with its own name", async () => {
  const names = async (text: string): Promise<string[]> =>
    (await run(one(`${text}\n    expect: { status: 200 }`))).map(({ case: { name } }) => name);
  expect(await names("name: pages\n    request: [/, /heron]")).toEqual(["pages: /", "pages: /heron"]);
  expect(await names("name: pages\n    request: [/heron]")).toEqual(["pages"]);
  expect(await names("request: [/, /heron]")).toEqual(["GET /", "GET /heron"]);
});

test.each([
  ["packs: []", "cases, groups or packs are needed"],
  ["cases: [{ request: / }]\nagainst: 7", "against: found 7"],
])("a file with %s is told with what to write", async (text, message) => {
  await expect(run(`version: 1\n${text}`)).rejects.toThrow(message);
});

test.each<[what: string, text: string, message: string]>([
  [
    "a pattern between slashes",
    "request: /\n    expect: { body: { matches: /heron/i } }",
    'found "/heron/i"; a pattern is written without slashes: write { pattern: "heron", flags: i }.',
  ],
  [
    "an invalid class of statuses",
    "request: /\n    expect: { status: 2x }",
    'found "2x"; a status is a number without quotes, such as 200, or a class of them, such as 2xx.',
  ],
  [
    "flags that nobody needs",
    "request: /\n    expect: { body: { matches: { pattern: a, flags: g } } }",
    "the flags are i (case is ignored)",
  ],
  [
    "a range whose end comes first",
    "request: /\n    alsoAsk: [{ range: bytes=9-5 }]",
    "the last byte comes before the first: write bytes=5-9.",
  ],
  [
    "a range of nothing",
    "request: /\n    alsoAsk: [{ range: bytes=-0 }]",
    "this range has no byte: write bytes=-1 for the last one.",
  ],
  ["a misspelt negation", "request: /\n    expect: { body: { matchNot: x } }", 'write "matchesNot".'],
  [
    "bounds that say nothing",
    "request: /\n    expect: { body: { length: {} } }",
    "a bound is needed: write { atLeast: 1 } or { atMost: 10 }.",
  ],
  [
    "remember without next",
    "request: /\n    remember: { a: { field: ETag } }\n    expect: { status: 200 }",
    "remember takes values for the requests of next; write next too, or leave remember out.",
  ],
  [
    "a remembered value elsewhere",
    "request: '/${a}'\n    remember: { a: { field: ETag } }\n    next: [{ request: / }]",
    "found ${a}; a remembered value is only known in the requests of next: use it there.",
  ],
  [
    "atOnce without times",
    "request: /\n    atOnce: 5\n    expect: { status: 200 }",
    "atOnce says how many of the requests are sent at the same time; write times: 50 too.",
  ],
  [
    "an invalid pointer",
    "request: /\n    expect: { body: { jsonAt: { birds: { type: array } } } }",
    'a place in JSON is written as a pointer (RFC 6901), such as "/birds/0/name".',
  ],
  [
    "what cannot be taken back",
    "request: /\n    expect: { except: colour }",
    "except can name status, redirect, ",
  ],
  [
    "an invalid short time",
    "request: /\n    expect: { firstByte: { atMost: soon } }",
    "a short time is written as 200ms or 2s.",
  ],
])("%s is told with what to write", async (_what, text, message) => {
  await expect(run(one(text))).rejects.toThrow(message);
});

test("every property of the published schema is described", () => {
  const bare: string[] = [];
  const visit = (node: unknown, at: string): void => {
    if (typeof node !== "object" || node === null) return;
    for (const [key, value] of Object.entries(node)) {
      if (key === "properties")
        for (const [name, property] of Object.entries(value as Record<string, { description?: string }>))
          if (property.description === undefined) bare.push(`${at}.${name}`);
      visit(value, key === "properties" || /^(?:anyOf|items|\d+)$/.test(key) ? at : `${at}.${key}`);
    }
  };
  visit(z.toJSONSchema(expectationsSchema, { io: "input", target: "draft-7" }), "");
  expect(bare).toEqual([]);
});
