import { readFileSync } from "node:fs";
import { Ajv } from "ajv";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { parse } from "yaml";
import { parseWritten } from "../../src/config/document.js";
import { openSite, type ServedEntry } from "../../src/index.js";
import {
  expandCases,
  loadExpectations,
  makeTemporaryTree,
  type TemporaryTree,
} from "../../src/testing/index.js";
import { openMemory } from "../helpers.js";

let tree: TemporaryTree;
beforeAll(async () => {
  tree = await makeTemporaryTree({ "files/shown.txt": "shown" });
});
afterAll(() => tree.close());

const FILES = {
  "index.html": "home",
  "guide/a b.html": "a",
  "guide/owl.html": "owl",
  "guide/plate.svg": "<svg/>",
  "keys/.secret.html": "hidden",
  "drafts/d.html": "withheld",
};

async function listServed(): Promise<ServedEntry[]> {
  const site = await openMemory(FILES, { withheld: ["drafts"] });
  const entries: ServedEntry[] = [];
  for await (const entry of site.files()) entries.push(entry);
  return entries;
}

async function read(text: string, options: Parameters<typeof loadExpectations>[1] = {}) {
  await tree.write({ "e.yaml": text });
  const expectations = await loadExpectations(`${tree.folder}/e.yaml`, options);
  return expandCases(expectations, listServed);
}

describe("an expectations file", () => {
  test("groups hand down what a case does not say; fields are laid over each other by name", async () => {
    const cases = await read(`version: 1
cases:
  - request: HEAD /
    expect: { status: 200 }
groups:
  - name: pages
    under: /guide/
    request: { method: HEAD, headers: { Accept: text/html, X-One: one } }
    expect: { status: 200, headers: { Vary: Accept, ETag: { present: true } }, body: { empty: true } }
    alsoAsk: [revisit]
    retries: 2
    timeout: 3s
    cases:
      - request: { path: /owl.html, headers: { accept: "*/*" } }
        expect: { headers: { vary: Origin }, body: { length: 0 } }
      - name: in its own way
        request: GET /
        alsoAsk: []
        retries: 0
`);
    expect(
      cases.map(({ name, group, question, retries, timeoutMs }) => ({
        name,
        group,
        question,
        retries,
        timeoutMs,
      })),
    ).toEqual([
      {
        name: "HEAD /",
        group: undefined,
        question: { method: "HEAD", path: "/", headers: {} },
        retries: undefined,
        timeoutMs: undefined,
      },
      {
        name: "HEAD /guide/owl.html",
        group: "pages",
        question: { method: "HEAD", path: "/guide/owl.html", headers: { "X-One": "one", accept: "*/*" } },
        retries: 2,
        timeoutMs: 3000,
      },
      {
        name: "in its own way",
        group: "pages",
        question: { method: "GET", path: "/guide/", headers: { Accept: "text/html", "X-One": "one" } },
        retries: 0,
        timeoutMs: 3000,
      },
    ]);
    expect(cases[1]!.checks.map(({ about, expected }) => `${about}: ${expected}`)).toEqual([
      "status: 200",
      "ETag: any value",
      "vary: Origin",
      "body: an empty body",
      "body: 0 bytes",
    ]);
    expect(cases.map(({ followUps }) => followUps.length)).toEqual([0, 1, 0]);
    expect(cases[1]!.position).toMatch(/e\.yaml:14:9$/);
  });

  test.each<[string, string, string[]]>([
    ["a name, wherever it stands", 'each: "*.html"', ["/index.html", "/guide/a%20b.html", "/guide/owl.html"]],
    [
      "a path from the root, and exceptions",
      'each: "guide/*"\n    except: ["*.svg", "guide/a*"]',
      ["/guide/owl.html"],
    ],
    [
      "several, with a method",
      'each: ["*.svg", index.html]\n    request: { method: HEAD }',
      ["/index.html", "/guide/plate.svg"],
    ],
  ])("each: %s", async (_sentence, each, paths) => {
    const cases = await read(`version: 1\ncases:\n  - name: all\n    ${each}\n    expect: { status: 200 }\n`);
    expect(cases.map(({ question }) => question.path)).toEqual(paths);
    expect(cases[0]!.name).toBe(`all: ${paths[0]}`);
  });

  test("each: under a group's prefix, and none that matches is a case that fails", async () => {
    const cases = await read(
      `version: 1\ngroups:\n  - name: g\n    under: /guide\n    expect: { status: 200 }\n    cases: [{ each: "owl*" }, { each: "*.png" }]\n`,
    );
    expect(cases.map(({ question, unmet }) => [question.path, unmet?.expected])).toEqual([
      ["/guide/owl.html", undefined],
      ["/guide/", 'files that are served and match "*.png" under /guide'],
    ]);
  });

  test("variables: the file's own, replaced from outside, the base address, and none where it is escaped", async () => {
    const text = `version: 1
variables: { prefix: /guide, who: nobody }
against: http://larkholm.invalid\${prefix}/
cases:
  - name: \${who}, \${dollar}{who}
    request: { path: "\${prefix}/", headers: { Origin: "\${address}" } }
    expect: { redirect: "\${address}/x" }
`;
    const [one] = await read(text, { variables: { who: "somebody" } });
    expect([one!.name, one!.question.path, one!.question.headers.Origin, one!.checks[1]!.expected]).toEqual([
      `somebody, \${who}`,
      "/guide/",
      "http://larkholm.invalid/guide",
      "http://larkholm.invalid/guide/x",
    ]);
    const [other] = await read(text, { address: "https://www.larkholm.invalid/" });
    expect(other!.question.headers.Origin).toBe("https://www.larkholm.invalid");
  });

  test("numbers that YAML makes of a field's value, and letters beyond ASCII in a path", async () => {
    const [one] = await read(`version: 1
variables: { port: 8080 }
cases:
  - request: { path: "/guide/Óðinshani?n=\${port}", headers: { DNT: 1 } }
    expect: { headers: { Content-Length: 96044 } }
`);
    expect([one!.question, one!.checks[0]!.expected, one!.name]).toEqual([
      { method: "GET", path: "/guide/%C3%93%C3%B0inshani?n=8080", headers: { DNT: "1" } },
      "96044",
      "GET /guide/%C3%93%C3%B0inshani?n=8080",
    ]);
  });

  test("JSON is read as YAML is, and a file beside it is found from it", async () => {
    const [one] = await read(
      JSON.stringify({
        version: 1,
        cases: [{ request: "/shown", expect: { body: { file: "files/shown.txt" } } }],
      }),
    );
    const reply = { status: 200, headers: {}, body: new TextEncoder().encode("shown"), inside: undefined };
    expect(one!.checks[0]!.look({ question: one!.question, reply, address: "" })).toBeUndefined();
    expect(
      one!.checks[0]!.look({
        question: one!.question,
        reply: { ...reply, body: new Uint8Array(2) },
        address: "",
      })!.text,
    ).toBe("2 bytes, different from byte 0 (line 1) on");
  });
});

describe("what is wrong in a file is said with file, line and column", () => {
  const one = (rest: string): string => `version: 1\ncases:\n  - ${rest}\n`;
  test.each<[string, string, string]>([
    ["not YAML", "version: 1\ncases: [\n", "e.yaml:2:8: the bracket [ is not closed; write ] at its end."],
    [
      "another version",
      "version: 2\ncases: [{ request: /, expect: { status: 200 } }]",
      "e.yaml:1:10: version: found 2; write 1.",
    ],
    ["nothing to run", "version: 1\n", "e.yaml:1:1: cases: found nothing; cases, groups or packs are needed"],
    [
      "a misspelt key",
      one("request: GET /\n    expct: {}"),
      'e.yaml:4:5: cases[0]: found the key "expct"; write "expect".',
    ],
    ["neither path nor each", one("name: x\n    expect: { status: 200 }"), "e.yaml:3:5: cases[0]: found "],
    [
      "both path and each",
      one("request: GET /\n    each: '*.html'"),
      "a case has one path, or each for many: leave the path or each out.",
    ],
    [
      "except without each",
      one("request: GET /\n    except: '*.html'"),
      "except leaves files out of each; write each too.",
    ],
    [
      "nothing expected",
      one("request: GET /"),
      "e.yaml:3:5: found no expectation; write expect: { status: 200 }, or alsoAsk: [revisit].",
    ],
    [
      "a blank in a path",
      one('request: "GET /a b"'),
      'e.yaml:3:14: cases[0].request: found "GET /a b"; a request is a method and a path without spaces',
    ],
    [
      "a line break in a field",
      one('request: { path: /, headers: { A: "b\\nc" } }'),
      "a field's value has no line break: write it in one line.",
    ],
    [
      "a name that is no field's",
      one("request: { path: /, headers: { 'A b': c } }"),
      'found "A b"; the name of a header field is needed, such as Accept.',
    ],
    [
      "an invalid status",
      one("request: /\n    expect: { status: 20 }"),
      "e.yaml:4:23: cases[0].expect.status: found 20; ",
    ],
    [
      "a type with parameters",
      one("request: /\n    expect: { mediaType: text/html; charset=utf-8 }"),
      "a media type without parameters is needed, such as text/html; write the charset as charset: utf-8.",
    ],
    [
      "an invalid phrase",
      one("request: /\n    expect: { caching: forever }"),
      'found "forever"; write caching as: not stored, revalidated each time, ',
    ],
    [
      "an invalid pattern",
      one('request: /\n    expect: { body: { matches: "(" } }'),
      'found "("; a regular expression of JavaScript is needed',
    ],
    [
      "a word where its meaning is wanted",
      one("request: /\n    expect: { headers: { ETag: absent } }"),
      'found "absent"; a text is the whole value of the field: write { present: false }.',
    ],
    [
      "an invalid digest",
      one("request: /\n    expect: { body: { digest: sha-256=abc } }"),
      "a digest is written sha-256= or sha-512=",
    ],
    [
      "a field of which nothing is said",
      one("request: /\n    expect: { headers: { ETag: {} } }"),
      "e.yaml:4:32: cases[0].expect.headers.ETag: found {}; what the field must be is needed: write a text, or { present: true }.",
    ],
    [
      "a body of which nothing is said",
      one("request: /\n    expect: { body: {} }"),
      "found {}; what the body must be is needed: write { contains: a text }.",
    ],
    [
      "an invalid follow-up",
      one("request: /\n    alsoAsk: [revisits]"),
      'found "revisits"; write "revisit".',
    ],
    [
      "a range that is several",
      one("request: /\n    alsoAsk: [{ range: 'bytes=0-1,5-6' }]"),
      "one range is written as bytes=0-99, bytes=100- or bytes=-100.",
    ],
    [
      "an invalid time",
      one("request: /\n    timeout: soon"),
      "a time is a number of seconds, or written as 10s or 2m.",
    ],
    [
      "an invalid pack",
      "version: 1\npacks: [condtional]",
      'e.yaml:2:9: packs[0]: found "condtional"; write "conditional".',
    ],
    [
      "an invalid variable",
      one(`request: GET \${prefx}/\n    expect: {}\nvariables: { prefix: /x }`),
      `e.yaml:3:14: found \${prefx}; write \${prefix}.`,
    ],
    [
      "a file that answers, without its slash",
      one("request: /\n    expect: { answeredBy: index.html }"),
      'found "index.html"; the file that answers, as its address',
    ],
  ])("%s", async (_sentence, text, message) => {
    await expect(read(text)).rejects.toThrow(message);
  });

  test("a variable that the file does not have, from outside", async () => {
    await expect(
      read(one("request: /\n    expect: { status: 200 }"), { variables: { x: "y" } }),
    ).rejects.toThrow("found no variable x, which --set names; the file has none.");
  });

  test("each without a configuration", async () => {
    await tree.write({ "e.yaml": one("each: '*'\n    expect: { status: 200 }") });
    await expect(expandCases(await loadExpectations(`${tree.folder}/e.yaml`), undefined)).rejects.toThrow(
      "found each, which needs to know the served files; write config: ",
    );
  });
});

test.each([
  "demo/expectations.yaml",
  "examples/observatory/guide.expectations.yaml",
  "examples/observatory/explorer.expectations.yaml",
])("%s is right by the published schema, and a misspelt key is not", (file) => {
  const validateSchema = new Ajv({ allowUnionTypes: true }).compile(
    JSON.parse(readFileSync("dist/schema/expectations.json", "utf8")),
  );
  const value = parse(readFileSync(file, "utf8"));
  expect([validateSchema(value), validateSchema.errors]).toEqual([true, null]);
  expect(validateSchema({ ...value, grups: [] })).toBe(false);
});

test("the files of a site: withheld, hidden and broken ones left out, links followed once", async () => {
  await using disk = await makeTemporaryTree({
    "a/x.txt": "x",
    "b/x.txt": "under another mount",
    "top.txt": "t",
    "in.txt": { link: "top.txt" },
    loop: { link: "." },
    out: { link: "/etc" },
    ".env": "secret",
    "c/": "",
  });
  const site = await openSite({ base: disk.folder, mounts: [{ folder: "." }, { at: "/b", folder: "a" }] });
  const paths: string[] = [];
  for await (const { path, mount } of site.files()) paths.push(`${mount} ${path}`);
  expect(paths.sort()).toEqual(
    [
      "/ /",
      "/ /a/",
      "/ /a/x.txt",
      "/ /c/",
      "/ /in.txt",
      "/ /loop/",
      "/ /loop/a/",
      "/ /loop/a/x.txt",
      "/ /loop/b/",
      "/ /loop/b/x.txt",
      "/ /loop/c/",
      "/ /loop/in.txt",
      "/ /loop/top.txt",
      "/ /top.txt",
      "/b /b/",
      "/b /b/x.txt",
    ].sort(),
  );
});

test.each<[string, string, RegExp]>([
  [
    "aliases that decode to more than memory holds",
    `version: 1\na: &a [x, x]\n${Array.from({ length: 30 }, (_, i) => `k${i}: &k${i} [*${i === 0 ? "a" : `k${i - 1}`}, *${i === 0 ? "a" : `k${i - 1}`}, *${i === 0 ? "a" : `k${i - 1}`}]`).join("\n")}`,
    /: its aliases expand to more than 100 values; write the values out\.$/,
  ],
  [
    "an alias inside of its own anchor",
    "version: 1\ncases: &c [*c]",
    /: values are nested more than 100 levels deep, or an alias is inside its own anchor; write fewer levels\.$/,
  ],
  [
    "lists in lists",
    `version: 1\ncases: ${"[".repeat(300)}${"]".repeat(300)}`,
    /nested more than 100 levels deep/,
  ],
  [
    "lists in lists, deeper than the parser goes",
    `version: 1\ncases: ${"[".repeat(20_000)}${"]".repeat(20_000)}`,
    /values are nested too deeply; write fewer levels\.$/,
  ],
])("%s end in a sentence", (_what, text, message) => {
  expect(() => parseWritten(text, "e.yaml")).toThrow(message);
});
