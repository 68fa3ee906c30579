import { type ChildProcessWithoutNullStreams, spawn } from "node:child_process";
import { existsSync, readdirSync, readFileSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { join, resolve } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { Ajv } from "ajv";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { parse } from "yaml";
import { startServer } from "../../src/adapters/node.js";
import { openSite } from "../../src/index.js";
import { takeSample } from "../../src/testing/discover/sample.js";
import { askSite, makeTemporaryTree, type TemporaryTree } from "../../src/testing/index.js";
import { makePack } from "../../src/testing/packs/packs.js";
import { startStandInProxy } from "../fixtures/stand-in-proxy.js";

const CLI = resolve("dist/cli/bin.js");
const DEMO = resolve("demo");

let tree: TemporaryTree;
let server: Awaited<ReturnType<typeof startServer>>;
beforeAll(async () => {
  tree = await makeTemporaryTree({
    "public/index.html":
      '<title>Larkholm</title><link rel=stylesheet href="/style.css"><a href="guide/">guide</a><a href="http://other.invalid/">away</a>',
    "public/guide/index.html": "<title>Guide</title>",
    "public/style.css": `a { color: red }\n${"/* quiet */".repeat(200)}`,
    "public/app-5f3a91bc.js": "run()",
    "epistyle.config.yaml": "mounts: [{ folder: public }]\n",
    "good.yaml": `version: 1
config: epistyle.config.yaml
variables: { page: / }
cases:
  - { name: the front page, request: "GET \${page}", expect: { status: 200 } }
  - { name: another, request: /guide/, expect: { status: 200 }, alsoAsk: [revisit] }
`,
    "bad.yaml":
      "version: 1\nconfig: epistyle.config.yaml\ncases:\n  - { request: /, expect: { status: 404 } }\n  - { request: /guide/, expect: { status: 404 } }\n",
    "served.yaml": `version: 1\nvariables: { base: http://127.0.0.1:1 }\nagainst: \${base}/\npacks: [head]\n`,
  });
  server = await startServer(await openSite({ base: tree.folder, mounts: [{ folder: "public" }] }), {
    host: "127.0.0.1",
    port: 0,
  });
});
afterAll(async () => {
  await server.close();
  await tree.close();
});

const start = (args: string[]): ChildProcessWithoutNullStreams =>
  spawn(process.execPath, [CLI, ...args], { cwd: tree.folder, env: { ...process.env, NO_COLOR: "1" } });

async function run(...args: string[]): Promise<{ status: number | null; out: string; err: string }> {
  const child = start(args);
  let [out, err] = ["", ""];
  child.stdout.on("data", (chunk) => (out += chunk));
  child.stderr.on("data", (chunk) => (err += chunk));
  const status = await new Promise<number | null>((done) => child.on("close", done));
  return { status, out, err };
}

const lastLine = (text: string): string => text.trim().split("\n").at(-1)!;

describe("check", () => {
  test("several reports at once, to files and one to standard output; a recording", async () => {
    const { status, out } = await run(
      "check",
      "good.yaml",
      "--report",
      "tap",
      "--report",
      "junit=out/r.xml",
      "--report",
      "json=out/r.json",
      "--report",
      "html=out/r.html",
      "--report",
      "pretty=out/r.txt",
      "--har",
      "out/r.har",
    );
    expect([status, out.split("\n")[0]]).toEqual([0, "TAP version 14"]);
    const file = (name: string): string => readFileSync(join(tree.folder, "out", name), "utf8");
    expect(file("r.xml")).toMatch(
      /^<\?xml version="1.0" encoding="UTF-8"\?>\n<testsuites name="epistyle check" tests="2" failures="0"/,
    );
    expect(JSON.parse(file("r.json"))).toMatchObject({ total: 2, passed: 2 });
    expect(file("r.html")).toContain("All 2 passed");
    expect(file("r.txt")).toContain("All passed: 2 cases.");
    expect(JSON.parse(file("r.har")).log.entries).toHaveLength(4);
  });

  test.each<[string, string[], number, string | RegExp]>([
    ["cases by name", ["good.yaml", "--only", "FRONT"], 0, "All passed: 1 case."],
    ["a variable from outside", ["good.yaml", "--set", "page=/none"], 1, "1 of 2 cases failed."],
    [
      "one after the other, until one fails",
      ["bad.yaml", "good.yaml", "--first-failure", "--concurrency", "1"],
      1,
      "1 of 2 cases failed, 1 skipped.",
    ],
    [
      "packs of a configuration",
      ["head", "ranges", "--config", "epistyle.config.yaml"],
      0,
      /^All passed: \d+ cases\.$/,
    ],
    ["packs of a folder", ["exposure", "--folder", "public"], 0, /^All passed: \d+ cases\.$/],
  ])("%s", async (_sentence, args, status, last) => {
    const outcome = await run("check", ...args);
    expect([outcome.status, outcome.err]).toEqual([status, ""]);
    expect(lastLine(outcome.out)).toMatch(last);
  });

  test("a run that does not end leaves no report, and not that of the run before", async () => {
    const reports = ["--report", "junit=out/last.xml", "--har", "out/last.har"];
    const left = (): string[] =>
      readdirSync(join(tree.folder, "out")).filter((name) => name.startsWith("last"));
    for (const [args, status, files] of [
      [["good.yaml"], 0, ["last.har", "last.xml"]],
      [["none.yaml"], 2, []],
      [["good.yaml"], 0, ["last.har", "last.xml"]],
      [["good.yaml", "--against", "http://127.0.0.1:1/", "--accept", "none.yaml"], 2, []],
    ] as const)
      expect([(await run("check", ...args, ...reports)).status, left()]).toEqual([status, files]);
    // A device is written to, and not replaced.
    expect((await run("check", "good.yaml", "--report", "junit=/dev/full")).err).toContain(
      "/dev/full cannot be written (ENOSPC)",
    );
  });

  test("failures that are known, told apart; what is known and does not occur; an open standard's report", async () => {
    await tree.write({
      "known.yaml":
        'version: 1\naccept:\n  - { case: "GET /*", about: status, reason: the guide moves in autumn }\n  - { case: "of old: *", reason: gone long since }\n  - { case: "protected: *", reason: this pack does not run here }\n',
      "else.yaml": 'version: 1\naccept: [{ case: "GET /guide/", about: Vary, reason: another thing }]\n',
    });
    const { status, out, err } = await run(
      "check",
      "bad.yaml",
      "--accept",
      "known.yaml",
      "--report",
      "pretty",
      "--report",
      "sarif=out/r.sarif",
      "--report",
      "tap=out/r.tap",
      "--report",
      "junit=out/known.xml",
      "--report",
      "html=out/known.html",
    );
    expect([status, lastLine(out), err]).toEqual([
      0,
      "0 of 2 cases passed, 2 known to fail.",
      'known.yaml: "of old: *" is accepted but no longer fails; remove it.\n',
    ]);
    expect(out).toContain("known    GET /guide/\n         the guide moves in autumn");
    const file = (name: string): string => readFileSync(join(tree.folder, "out", name), "utf8");
    expect(file("r.tap")).toContain("not ok 1 - GET / # TODO the guide moves in autumn");
    expect(file("known.xml")).toContain('<skipped message="known to fail: the guide moves in autumn"');
    expect(file("known.html")).toMatch(/<h2>What is known to fail<\/h2>\n<details class="known">/);
    const sarif = JSON.parse(file("r.sarif"));
    const holds = new Ajv({ strict: false, validateFormats: false }).compile(
      JSON.parse(readFileSync(resolve("test/fixtures/sarif-2.1.0.schema.json"), "utf8")),
    );
    expect([holds(sarif), holds.errors]).toEqual([true, null]);
    expect(sarif.runs[0].results.map((one: Record<string, unknown>) => one)).toMatchObject([
      {
        ruleId: "expectation",
        level: "error",
        suppressions: [{ justification: "the guide moves in autumn" }],
        locations: [
          { physicalLocation: { artifactLocation: { uri: "bad.yaml" }, region: { startLine: 4 } } },
        ],
      },
      { ruleId: "expectation" },
    ]);
    expect(await run("check", "bad.yaml", "--accept", "else.yaml")).toMatchObject({
      status: 1,
      out: expect.stringContaining("2 of 2 cases failed."),
    });
    expect(await run("check", "bad.yaml", "--accept", "none.yaml")).toMatchObject({
      status: 2,
      err: expect.stringContaining(
        '--accept: none.yaml: there is no such file; write one with version: 1 and accept: [{ case: "group: name", reason: … }].',
      ),
    });
  });

  test("files about one server look it over once; each follows its links; methods that write wait to be asked for", async () => {
    let asked = 0;
    const counted = createServer((request, response) => {
      asked++;
      const body = request.url === "/" ? '<title>x</title><a href="/a.html">a</a>' : "<title>a</title>";
      response
        .writeHead(/^\/(?:a\.html)?$/.test(request.url!) ? 200 : 404, { "Content-Type": "text/html" })
        .end(body);
    });
    await new Promise<void>((done) => void counted.listen(0, "127.0.0.1", done));
    try {
      const url = `http://127.0.0.1:${(counted.address() as AddressInfo).port}/`;
      const text = `version: 1\nagainst: ${url}\npacks: [types]\n`;
      await tree.write({
        "one.yaml": text,
        "two.yaml": text,
        "each.yaml": `version: 1\nagainst: ${url}\ncases: [{ each: "*.html", expect: { status: 200 } }]\n`,
      });
      await run("check", "one.yaml");
      const alone = asked;
      asked = 0;
      await run("check", "one.yaml", "two.yaml");
      expect(asked).toBeLessThan(2 * alone);
      expect(await run("check", "each.yaml")).toMatchObject({
        status: 0,
        out: expect.stringMatching(/GET \/a\.html[\s\S]*All passed: 1 case\./),
      });
    } finally {
      counted.close();
    }
    const elsewhere = await takeSample({
      ...askSite(await openSite({ base: tree.folder, mounts: [{ folder: "public" }] })),
      address: "https://www.larkholm.example",
    });
    expect(
      makePack("methods", { ...elsewhere, inProcess: false, mayWrite: false }, [])
        .filter(({ skip }) => skip !== undefined)
        .map(({ name, skip }) => `${name}: ${skip}`),
    ).toContain(
      '/style.css with DELETE: the server is on another machine; --methods sends DELETE /style.css with If-Match: "no-such-tag-4f1d" and no content',
    );
  });

  test("an address that the file names, by a variable", async () => {
    expect(await run("check", "served.yaml")).toMatchObject({
      status: 2,
      err: "served.yaml: http://127.0.0.1:1/ does not answer: no server listens at http://127.0.0.1:1.\n",
    });
    expect((await run("check", "served.yaml", "--set", `base=${server.url.slice(0, -1)}`)).status).toBe(0);
  });

  test.each<[string, string[], string | RegExp]>([
    [
      "a name that no case has",
      ["good.yaml", "--only", "owl"],
      '--only: found "owl", but no case has it in its name or group.\n',
    ],
    [
      "an invalid report",
      ["good.yaml", "--report", "xml"],
      /found "xml"; a report is one of pretty, tap, junit, json, html, sarif; add =FILE to write it to a file/,
    ],
    [
      "two reports to standard output",
      ["good.yaml", "--report", "tap", "--report", "json"],
      /found "json"; standard output takes one report; write the other to a file/,
    ],
    [
      "a report that cannot be written",
      ["good.yaml", "--report", "tap=public"],
      "--report: public cannot be written (EISDIR); name a file in a folder that you can write to.\n",
    ],
    [
      "an invalid variable",
      ["good.yaml", "--set", "page"],
      /found "page"; a variable is written name=value, such as prefix=\/explorer/,
    ],
    [
      "an invalid time",
      ["good.yaml", "--timeout", "soon"],
      /found "soon"; a time is a number of seconds, or written as 10s or 2m/,
    ],
    [
      "an invalid path",
      ["head", "--path", "guide"],
      /found "guide"; a path starts with a slash and has no spaces/,
    ],
    [
      "a pack misspelt",
      ["condtional"],
      'Found "condtional", which is neither a pack nor a file; write conditional.\n',
    ],
    [
      "a pack, and a server that does not answer",
      ["head", "--against", "http://127.0.0.1:1/"],
      /^head: http:\/\/127\.0\.0\.1:1\/ does not answer: no server listens at /,
    ],
  ])("%s", async (_sentence, args, message) => {
    const { status, err } = await run("check", ...args);
    expect(status).toBe(2);
    if (typeof message === "string") expect(err).toBe(message);
    else expect(err).toMatch(message);
  });

  test("failures without number: alike are one, and those that differ are told up to a bound", async () => {
    const pages = Object.fromEntries(
      Array.from({ length: 120 }, (_, index) => [`crowd/${index}.html`, `page ${index}`]),
    );
    const cases =
      "cases: [{ name: gone, each: '*.html', expect: { status: 404 } }, { name: kept, each: '*.html', expect: { body: { equals: none } } }]";
    await tree.write({ ...pages, "crowd.yaml": `version: 1\n${cases}\n` });
    const { status, out } = await run(
      "check",
      "crowd.yaml",
      "--folder",
      "crowd",
      "--report",
      "pretty",
      "--report",
      "html=crowd.html",
    );
    const texts = [
      /failed {3}gone +\d+(\.\d)? ms {2}120 files, GET/,
      /failed {3}kept +\d+(\.\d)? ms {2}120 files, GET/,
      /and 114 more\n/,
      /\n71 more cases failed in other ways; --report html=FILE shows all\.\n/,
    ];
    for (const text of texts) expect(out).toMatch(text);
    expect([status, lastLine(out)]).toEqual([1, "240 of 240 cases failed."]);
    const first = await run(
      "check",
      "crowd.yaml",
      "--folder",
      "crowd",
      "--first-failure",
      "--concurrency",
      "1",
    );
    expect(first.out).toMatch(
      /failed {3}gone: \/0\.html .*\nskipped {2}gone +119 files, not asked: an earlier case had failed\nskipped {2}kept +120 files, not asked/,
    );
    const page = readFileSync(join(tree.folder, "crowd.html"), "utf8");
    // Some causes in full and closed, and each case in its line.
    expect([
      page.match(/<details class="failed">/g)!.length,
      page.match(/kept: \/119\.html/g)!.length,
    ]).toEqual([12, 1]);
  });

  test("watched, it runs again with each change, and a file that is wrong is told and waited for", async () => {
    await tree.write({ "watched.yaml": readFileSync(join(tree.folder, "bad.yaml")) });
    const child = start(["check", "watched.yaml", "--watch"]);
    let out = "";
    child.stdout.on("data", (chunk) => (out += chunk));
    const until = async (text: RegExp): Promise<void> => {
      for (let i = 0; i < 200 && !text.test(out); i++) await wait(50);
      expect(out).toMatch(text);
      out = "";
      await wait(200);
    };
    await until(/2 of 2 cases failed\.[\s\S]*Waiting for a change\./);
    await tree.write({ "watched.yaml": readFileSync(join(tree.folder, "good.yaml")) });
    await until(/All passed: 2 cases\.[\s\S]*Waiting/);
    await tree.write({ "watched.yaml": "version: 3\n" });
    await until(/watched\.yaml:1:10: version: found 3; write 1\.[\s\S]*Waiting/);
    await tree.write({ "watched.yaml": readFileSync(join(tree.folder, "good.yaml")) });
    await until(/All passed: 2 cases\.[\s\S]*Waiting/);
    await tree.write({ "public/guide/index.html": "<title>New</title>" });
    await until(/All passed: 2 cases\.[\s\S]*Waiting/);
    child.kill("SIGINT");
    expect(await new Promise((done) => child.on("close", done))).toBe(0);
  });
});

describe("draft", () => {
  test.each<[string, () => string[], () => string[], string[]]>([
    [
      "a configuration",
      () => ["--config", "epistyle.config.yaml"],
      () => [],
      ["documents", "redirects", "scripts and style sheets", "missing files", "what must never be served"],
    ],
    [
      "a folder",
      () => ["--folder", "public"],
      () => ["--folder", "public"],
      ["documents", "redirects", "scripts and style sheets", "missing files", "what must never be served"],
    ],
    [
      "the demo",
      () => ["--config", join(DEMO, "epistyle.config.yaml")],
      () => [],
      [
        "documents",
        "redirects",
        "scripts and style sheets",
        "pictures and fonts",
        "sound and video",
        "data and downloads",
        "directory listings",
        "missing files",
        "what must never be served",
      ],
    ],
    [
      "a running server",
      () => ["--against", server.url, "--path", "/guide/"],
      () => [],
      ["documents", "redirects", "scripts and style sheets", "missing files", "what must never be served"],
    ],
  ])("from %s: running it right away passes", async (_sentence, from, how, groups) => {
    const out = `drafts/${groups.length}-${_sentence.replaceAll(" ", "-")}.yaml`;
    expect(await run("draft", ...from(), "--out", out)).toMatchObject({
      status: 0,
      err: "",
      out: expect.stringContaining(`${out} is written. Run it with: epistyle check ${out}`),
    });
    const text = readFileSync(join(tree.folder, out), "utf8");
    expect(parse(text).groups.map(({ name }: { name: string }) => name)).toEqual(groups);
    expect(text).not.toMatch(/etag|last-modified|\bdate\b|&a1|\*a1/i);
    const { status, out: report } = await run("check", out, ...how());
    expect([status, lastLine(report)]).toEqual([0, expect.stringContaining("All passed")]);
  });

  test("what looks like a variable in a title, and nothing to write about", async () => {
    await tree.write({ "priced/index.html": `<title>Plates for \${price} each</title>` });
    const command = "epistyle check 'priced plates.yaml' --folder priced";
    expect(await run("draft", "--folder", "priced", "--out", "priced plates.yaml")).toMatchObject({
      status: 0,
      out: `priced plates.yaml is written. Run it with: ${command}\n`,
    });
    const draft = readFileSync(join(tree.folder, "priced plates.yaml"), "utf8");
    for (const text of [`run it with: ${command}\n`, `contains: "Plates for \${dollar}{price} each"`])
      expect(draft).toContain(text);
    expect((await run("check", "priced plates.yaml", "--folder", "priced")).status).toBe(0);
    const broken = createServer((_, response) => void response.writeHead(500).end()).listen(0, "127.0.0.1");
    await new Promise((done) => broken.once("listening", done));
    const address = `http://127.0.0.1:${(broken.address() as AddressInfo).port}/`;
    expect(await run("draft", "--against", address)).toMatchObject({
      status: 2,
      out: "",
      err: `Found no address to write a case about in ${address}; name addresses with --path.\n`,
    });
    broken.close();
  });

  test("from a recording, which may begin with a byte order mark: running it right away passes", async () => {
    const request = { method: "GET", url: server.url, headers: [{ name: "Accept", value: "text/html" }] };
    const response = {
      status: 200,
      headers: [{ name: "Content-Type", value: "text/html; charset=utf-8" }],
      content: { mimeType: "text/html", text: "<title>Larkholm</title>" },
    };
    await tree.write({
      "visit.har": `\ufeff${JSON.stringify({ log: { version: "1.2", entries: [{ request, response }] } })}`,
    });
    expect((await run("draft", "--from", "visit.har", "--out", "visit.yaml")).status).toBe(0);
    const { against, groups } = parse(readFileSync(join(tree.folder, "visit.yaml"), "utf8"));
    expect([against, groups[0].cases[0].expect]).toEqual([
      server.url,
      { status: 200, mediaType: "text/html", charset: "utf-8", body: { contains: "Larkholm" } },
    ]);
    expect((await run("check", "visit.yaml")).status).toBe(0);
  });

  test.each<[string, string[], string | RegExp]>([
    [
      "from two things",
      ["--folder", "public", "--against", "http://x.invalid"],
      "Found both --folder and --against; a draft is made from only one of them: leave the other out.\n",
    ],
    [
      "over a file that is there",
      ["--folder", "public", "--out", "good.yaml"],
      "--out: good.yaml exists already, and may contain your work; name another file, or move it away.\n",
    ],
    ["from no recording", ["--from", "none.har"], "none.har: there is no such recording; check the path.\n"],
    [
      "from what is no recording",
      ["--from", "public/index.html"],
      /^public\/index\.html: this is not a HAR recording, which is JSON \(.*\); save one from a browser's network panel\.\n$/,
    ],
    [
      "from other JSON",
      ["--from", "public/other.json"],
      "public/other.json: this is not a HAR recording: log.entries: found nothing; a list is needed here.\n",
    ],
    [
      "from a server that does not answer",
      ["--against", "http://127.0.0.1:1/"],
      "--against: http://127.0.0.1:1/ does not answer: no server listens at http://127.0.0.1:1.\n",
    ],
  ])("%s", async (_sentence, args, message) => {
    await tree.write({ "public/other.json": '{"log":{}}' });
    const { status, out, err } = await run("draft", ...args);
    expect([status, out]).toEqual([2, ""]);
    if (typeof message === "string") expect(err).toBe(message);
    else expect(err).toMatch(message);
  });
});

describe("compare", () => {
  test("two places that answer alike, and two that do not, each difference told once with its likely reason", async () => {
    expect(await run("compare", "epistyle.config.yaml", server.url)).toMatchObject({
      status: 0,
      err: "",
      out: expect.stringMatching(
        /^here {3}epistyle\.config\.yaml\nthere {2}http.*\n━+\nNothing differs: \d+ addresses\.\n/,
      ),
    });
    const proxy = await startStandInProxy(server.url, {
      strips: ["ETag", "Last-Modified"],
      rewrites: (text) => text.replace("Larkholm", "Larkhill"),
    });
    const { status, out } = await run("compare", server.url, proxy.url, "--path", "/guide/");
    expect(status).toBe(1);
    expect(out.match(/^differs/gm)!.length).toBeLessThan(5);
    expect(out).toMatch(/ETag {11}here {6}"[^"]+"\n +there {5}nothing/);
    expect(out).toMatch(/likely .*removes ETag and Last-Modified/);
    const json = JSON.parse(
      (
        await run(
          "compare",
          server.url,
          proxy.url,
          "good.yaml",
          "--report",
          "json",
          "--report",
          "html=out/c.html",
          "--all-fields",
        )
      ).out,
    );
    proxy.close();
    expect(json).toMatchObject({ version: 1, total: 2, different: 2 });
    expect(json.comparisons[0].fields.map(({ name }: { name: string }) => name)).toContain("via");
    const page = readFileSync(join(tree.folder, "out/c.html"), "utf8");
    expect(page).toMatch(/<dd class="bad">2<\/dd>.*<th scope="row">Via<\/th><td>nothing<\/td>/s);
    const same = ["epistyle.config.yaml", "epistyle.config.yaml", "--report", "html=out/same.html"];
    expect(await run("compare", ...same)).toMatchObject({
      status: 0,
      out: expect.stringContaining("Nothing changes"),
    });
    expect(readFileSync(join(tree.folder, "out/same.html"), "utf8")).toMatch(
      /Nothing changes.*Every old address still answers/s,
    );
  });

  test("a place that does not answer, and an invalid one", async () => {
    expect(await run("compare", server.url, "http://127.0.0.1:1/")).toMatchObject({
      status: 2,
      out: "",
      err: "THERE: http://127.0.0.1:1/ does not answer: no server listens at http://127.0.0.1:1.\n",
    });
    expect(await run("compare", "http://127.0.0.1:1/", server.url)).toMatchObject({
      status: 2,
      err: "HERE: http://127.0.0.1:1/ does not answer: no server listens at http://127.0.0.1:1.\n",
    });
    expect(await run("compare", "larkholm", server.url)).toMatchObject({
      status: 2,
      err: expect.stringContaining(
        'HERE: found "larkholm", which does not exist; write the address of a site',
      ),
    });
    expect(existsSync(join(tree.folder, "larkholm"))).toBe(false);
  });
});
