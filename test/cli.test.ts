import { type ChildProcessWithoutNullStreams, spawn } from "node:child_process";
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { join, resolve } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { Ajv } from "ajv";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { openLogOutput } from "../src/adapters/log/log-output.js";
import { RULE_NAMES } from "../src/config/rules.js";
import { makeTree } from "./helpers.js";

const CLI = resolve("dist/cli/bin.js");
const DEMO = resolve("demo");

let tree: Awaited<ReturnType<typeof makeTree>>;
beforeAll(async () => {
  const expectations = (cases: string): string =>
    `version: 1\nconfig: epistyle.config.yaml\ncases:\n${cases}`;
  tree = await makeTree({
    "public/index.html": "<h1>home</h1>",
    "public/a\x1b[31m.txt": "escape",
    "public/404.html": "own page",
    "epistyle.config.yaml": "mounts:\n  - folder: public\n    errorPages: { 404: /404.html }\n",
    "misspelt.yaml": "mounts:\n  - foldr: public\n",
    "passing.yaml": expectations(
      "  - request: GET /\n    expect: { status: 200, body: { contains: home } }\n",
    ),
    "failing.yaml": expectations(
      [
        "  - request: GET /",
        "    expect: { status: 404, mediaType: text/plain, charset: latin1, body: { contains: away } }",
        "  - name: fields",
        "    request: { path: /nope, headers: { Accept: text/html } }",
        "    expect:",
        "      headers: { ETag: { present: true }, Cache-Control: no-store, Content-Type: { matches: ^image/ } }",
        "  - request: HEAD /",
        "    expect: { status: 200 }\n",
      ].join("\n"),
    ),
    "wrong.yaml": expectations("  - request: GET\n    expect: { stauts: 200 }\n"),
    "noconfig.yaml": "version: 1\ncases: [{ request: GET /, expect: {} }]\n",
    "version.yaml": "version: 2\ncases: []\n",
  });
});
afterAll(() => tree.remove());

interface Outcome {
  readonly status: number | null;
  readonly out: string;
  readonly err: string;
}

const start = (args: string[], cwd = tree.root): ChildProcessWithoutNullStreams =>
  spawn(process.execPath, [CLI, ...args], { cwd, env: { ...process.env, NO_COLOR: "1" } });

function finish(child: ChildProcessWithoutNullStreams): Promise<Outcome> {
  let [out, err] = ["", ""];
  child.stdout.on("data", (chunk) => (out += chunk));
  child.stderr.on("data", (chunk) => (err += chunk));
  return new Promise((done) => child.on("close", (status) => done({ status, out, err })));
}

const run = (...args: string[]): Promise<Outcome> => finish(start(args));

/** Starts a command that listens; gives its address, and a way to stop it that gives all it printed. */
async function listen(
  args: string[],
  cwd = tree.root,
): Promise<{ url: string; signal: (name: NodeJS.Signals) => void; stop: () => Promise<Outcome> }> {
  const child = start(args, cwd);
  const outcome = finish(child);
  const url = await new Promise<string>((found, failed) => {
    const look = (chunk: Buffer): void => {
      const match = /Listening on (\S+)/.exec(String(chunk));
      if (match) found(match[1]!);
    };
    child.stdout.on("data", look);
    child.stderr.on("data", look);
    child.on("close", () => failed(new Error("it did not listen")));
  });
  return {
    url,
    signal: (name) => void child.kill(name),
    stop() {
      child.kill("SIGTERM");
      return outcome;
    },
  };
}

describe("serve", () => {
  test("a folder, with a line for each request that names the file, or why there is none", async () => {
    const server = await listen(["serve", "public", "--port", "0"]);
    for (const path of ["", "nope.png", "a%1b[31m.txt"]) await (await fetch(server.url + path)).text();
    await fetch(server.url, { method: "HEAD", headers: { "If-None-Match": "*" } });
    const { status, out } = await server.stop();
    const lines = out.split("\n").filter((line) => /^\d\d:\d\d:\d\d/.test(line));
    expect(status).toBe(0);
    expect(lines[0]).toMatch(
      /^[\d:]{8} {2}GET {6}200 {2}text\/html {10,}13 B +[\d.]+ ms {2}\/ +public\/index\.html$/,
    );
    expect(lines[1]).toMatch(/404 {2}text\/plain .* \/nope\.png +none: no such file$/);
    expect(lines[2]).toMatch(/200 .* public\/a\\u\{1b\}\[31m\.txt$/);
    expect(lines[3]).toMatch(
      /HEAD {5}304 {2}- .*0 B .*public\/index\.html \(the client's copy is current\)$/,
    );
    expect(out).not.toContain("\x1b");
  });

  test("the same files from another working directory", async () => {
    const { root: elsewhere, remove } = await makeTree({});
    for (const [args, cwd] of [
      [["serve", "--port", "0"], tree.root],
      [["serve", "--config", join(tree.root, "epistyle.config.yaml"), "--port", "0"], elsewhere],
      [["serve", join(tree.root, "public"), "--port", "0"], elsewhere],
    ] as const) {
      const server = await listen([...args], cwd);
      expect(await (await fetch(server.url)).text()).toBe("<h1>home</h1>");
      expect((await server.stop()).status).toBe(0);
    }
    await remove();
  });

  test("without a mount at the root, an address that answers", async () => {
    const config = join(tree.root, "under.yaml");
    writeFileSync(config, "mounts:\n  - { at: /field guide, folder: public }\n");
    const server = await listen(["serve", "--config", config, "--port", "0"]);
    expect(server.url).toMatch(/\/field%20guide\/$/);
    expect(await (await fetch(server.url)).text()).toBe("<h1>home</h1>");
    await server.stop();
  });

  test("a log for programs has standard output to itself", async () => {
    const json = await listen(["serve", "public", "--port", "0", "--log", "json"]);
    await fetch(`${json.url}nope`);
    const { out, err } = await json.stop();
    expect(
      out
        .trim()
        .split("\n")
        .map((line) => JSON.parse(line)),
    ).toMatchObject([
      {
        method: "GET",
        target: "/nope",
        status: 404,
        mediaType: "text/plain",
        why: "no such file",
        complete: true,
        level: "info",
      },
    ]);
    expect(err).toContain("Listening on");
    const combined = await listen(["serve", "public", "--port", "0", "--log", "combined"]);
    await fetch(combined.url, { headers: { "User-Agent": 'a "b"', Referer: "http://x.test/" } });
    expect((await combined.stop()).out).toMatch(
      /^127\.0\.0\.1 - - \[\d\d\/\w{3}\/\d{4}:[\d:]{8} \+0000\] "GET \/ HTTP\/1\.1" 200 13 "http:\/\/x\.test\/" "a \\"b\\"" "public\/index\.html"\n$/,
    );
  });

  test("a log in a file that is opened again, in every form; queries left out; a full disk holds up nothing and is counted", async () => {
    const file = join(tree.root, "logs/deep/site.log");
    mkdirSync(join(tree.root, "logs/deep"), { recursive: true });
    const server = await listen([
      "serve",
      "public",
      "--port",
      "0",
      "--log",
      "extended",
      "--log-file",
      file,
      "--redact-query",
      "--proxies",
      "1",
    ]);
    const headers = { "X-Forwarded-For": "192.0.2.1", "User-Agent": 'a "b"' };
    await fetch(`${server.url}?secret=1`, { headers });
    const lines = (path: string): string[] => readFileSync(path, "utf8").trim().split("\n");
    await expect.poll(() => existsSync(file) && lines(file).length).toBe(5);
    expect(lines(file).slice(0, 4)).toEqual([
      "#Version: 1.0",
      "#Software: epistyle",
      expect.stringMatching(/^#Date: \d{4}-\d\d-\d\d [\d:]{8}$/),
      "#Fields: date time c-ip cs-method cs-uri-stem cs-uri-query cs-version cs-host sc-status sc-bytes time-taken cs(User-Agent) cs(Referer) x-outcome x-request-id",
    ]);
    expect(lines(file)[4]).toMatch(
      /^\d{4}-\d\d-\d\d [\d:]{8} 192\.0\.2\.1 GET \/ … HTTP\/1\.1 127\.0\.0\.1:\d+ 200 13 0\.\d{3} "a ""b""" - "public\/index\.html" -$/,
    );
    renameSync(file, `${file}.1`);
    server.signal("SIGUSR2");
    await expect.poll(() => existsSync(file)).toBe(true);
    await fetch(`${server.url}nope`, { headers });
    await expect.poll(() => lines(file).length).toBe(5);
    expect(lines(`${file}.1`)).toHaveLength(5);
    expect((await server.stop()).out).not.toContain("#Version");
    const full = await listen([
      "serve",
      "public",
      "--port",
      "0",
      "--log",
      "common",
      "--log-file",
      "/dev/full",
    ]);
    const answers = await Promise.all(Array.from({ length: 20 }, async () => (await fetch(full.url)).status));
    const { status, out } = await full.stop();
    expect([status, answers.every((one) => one === 200)]).toEqual([0, true]);
    expect(out).toMatch(/\d+ lines? of the log could not be written, and (?:is|are) lost\./);
  });
});

test("a log file begins with its head, also when lines come at once, or while it is opened again; a file that cannot be opened is told", async () => {
  const file = join(tree.root, "logs/head.log");
  const output = await openLogOutput(file, () => "#head\n");
  output.write("1");
  output.reopen();
  output.write("2");
  await expect.poll(() => readFileSync(file, "utf8")).toBe("#head\n1\n#head\n2\n");
  output.write("3");
  renameSync(file, `${file}.1`);
  output.reopen();
  output.write("4");
  output.reopen();
  output.write("5");
  await output.close();
  expect(readFileSync(`${file}.1`, "utf8")).toBe("#head\n1\n#head\n2\n3\n");
  expect(readFileSync(file, "utf8")).toBe("#head\n4\n5\n");
  expect(output.takeLost()).toBe(0);
  writeFileSync(join(tree.root, "blocked"), "");
  const refused = await run(
    "serve",
    "public",
    "--port",
    "0",
    "--log",
    "common",
    "--log-file",
    "blocked/site.log",
  );
  expect(refused).toMatchObject({
    status: 2,
    err: expect.stringMatching(
      /^The log file blocked\/site\.log cannot be opened \(E\w+\); write a path in a folder/,
    ),
  });
});

test("seal writes down what a folder holds, and serve --seal serves exactly that", async () => {
  const sealed = await run("seal", "public", "--out", "public.jsonl");
  expect(sealed).toEqual({
    status: 0,
    out: "public.jsonl is written: 3 files, 27 B. Serve exactly these with: epistyle serve public --seal public.jsonl\n",
    err: "",
  });
  const lines = readFileSync(join(tree.root, "public.jsonl"), "utf8").trimEnd().split("\n");
  const valid = new Ajv({ strict: false, formats: { "date-time": true } }).compile(
    JSON.parse(readFileSync("dist/schema/seal.json", "utf8")),
  );
  expect(lines.map((line) => valid(JSON.parse(line)))).toEqual([true, true, true, true]);
  for (const args of [["public", "--seal"], ["public", "--seal", "public.jsonl"], ["--seal"]]) {
    const { url, stop } = await listen(["serve", ...args, "--port", "0"]);
    expect(await (await fetch(url)).text()).toBe("<h1>home</h1>");
    const file = join(tree.root, "public/index.html");
    writeFileSync(file, "<h1>away</h1>");
    expect(await (await fetch(url)).text()).toBe("<h1>home</h1>");
    expect((await stop()).status).toBe(0);
    writeFileSync(file, "<h1>home</h1>");
  }
});

describe("serve, while things change", () => {
  test("an edited file shows at once; an edited configuration is read again, and a wrong one changes nothing", async () => {
    const config = join(tree.root, "changing.yaml");
    writeFileSync(config, "mounts: [{ folder: public }]\n");
    const server = await listen(["serve", "--config", "changing.yaml", "--port", "0"]);
    const statusOf = async (path: string): Promise<number> => (await fetch(server.url + path)).status;
    const until = async (path: string, wanted: number): Promise<void> => {
      for (let i = 0; i < 60 && (await statusOf(path)) !== wanted; i++) await wait(50);
      expect(await statusOf(path)).toBe(wanted);
    };
    expect(await statusOf("new.txt")).toBe(404);
    writeFileSync(join(tree.root, "public", "new.txt"), "new");
    expect(await statusOf("new.txt")).toBe(200);

    writeFileSync(config, "mounts: [{ folder: public, at: /under }]\n");
    await until("under/new.txt", 200);
    expect(await statusOf("new.txt")).toBe(404);
    writeFileSync(config, "mounts: [{ foldr: public }]\n");
    await wait(900);
    expect(await statusOf("under/new.txt")).toBe(200);
    writeFileSync(config, "mounts: [{ folder: public }]\n");
    await until("new.txt", 200);
    const { out } = await server.stop();
    expect(out.match(/the new configuration is in use/g)).toHaveLength(2);
    expect(out).toContain('changing.yaml:1:12: mounts[0]: found the key "foldr"; write "folder".');
  });

  test("SIGHUP opens the site anew, a sealed one too; what cannot be opened changes nothing, and no answer fails meanwhile", async () => {
    const own = await makeTree({ "public/index.html": "one", "e.yaml": "mounts: [{ folder: public }]\n" });
    const server = await listen(["serve", "--config", "e.yaml", "--seal", "--port", "0"], own.root);
    const read = async (): Promise<string> => (await fetch(server.url)).text();
    writeFileSync(join(own.root, "public/index.html"), "two");
    expect(await read()).toBe("one");
    let [asked, wrong, stop] = [0, 0, false];
    const visitor = (async () => {
      for (; !stop; asked++) if (!/^(?:one|two)$/.test(await read())) wrong++;
    })();
    server.signal("SIGHUP");
    await expect.poll(read).toBe("two");
    writeFileSync(join(own.root, "e.yaml"), "mounts: [{ folder: nowhere }]\n");
    server.signal("SIGHUP");
    await new Promise((done) => setTimeout(done, 500));
    expect(await read()).toBe("two");
    stop = true;
    await visitor;
    expect([asked > 5, wrong]).toEqual([true, 0]);
    const { out } = await server.stop();
    await own.remove();
    expect(out).toContain("SIGHUP: the site was opened again; the new one is in use.\n/  public");
    expect(out).toMatch(
      /SIGHUP: the site cannot be opened again; the old one stays in use\.\ne\.yaml: mounts\[0\]\.folder: found "nowhere", which does not exist/,
    );
  });

  test("warnings of the start are printed", async () => {
    writeFileSync(join(tree.root, "warning.yaml"), "mounts: [{ folder: public, appShell: /none.html }]\n");
    const server = await listen(["serve", "--config", "warning.yaml", "--port", "0"]);
    expect((await server.stop()).out).toContain(
      "Warning: warning.yaml: mounts[0].appShell: there is no none.html in public; until there is, deep links are not found.",
    );
  });
});

describe("explain", () => {
  test("an answer: what answers and why, then the steps, the rules, the fields and their causes", async () => {
    const { status, out, err } = await run("explain", "/?a", "--header", "Accept: text/html");
    const lines = out.split("\n").map((line) => line.replace(/ {2,}/g, "  "));
    expect([status, err]).toEqual([0, ""]);
    for (const line of [
      "GET /?a: 200 OK",
      "target  /  a directory's address, with the query ?a",
      "mount  /  from public  path: the folder itself",
      "answer  public/index.html",
      "rules  defaultDocuments  index.html  default",
      "  errorPages  404: /404.html  mounts[0]",
      `  ${RULE_NAMES.length - 2} more are at the default: --all shows them`,
      "tried  default document  index.html  a file",
      "fields  Content-Type  text/html; charset=utf-8  .html in the built-in table; charset: default",
      "why  the default document of the directory",
    ]) {
      expect(lines).toContain(line);
    }
    expect(lines.findIndex((line) => line.startsWith("why"))).toBeLessThan(
      lines.findIndex((line) => line.startsWith("target")),
    );
    const all = (await run("explain", "/?a", "--all")).out.replace(/ {2,}/g, "  ");
    for (const line of [
      "rules  area  the whole mount",
      "impliedExtensions  .html  kind pages",
      "crossOrigin  none  default",
    ])
      expect(all).toContain(line);
    expect(all).not.toContain("--all shows them");
  });

  test("what is missing, with and without an application behind the site", async () => {
    const alone = (await run("explain", "/nope")).out;
    expect(alone).toMatch(
      /^GET \/nope: 404 Not Found\n[\s\S]*\nfix +There is no nope[\s\S]*\nbehind +If an application is behind the site, it gets this request: --behind shows that\.\n/,
    );
    const behind = (await run("explain", "/nope", "--behind")).out;
    expect(behind).toMatch(
      /^GET \/nope: passed on\n━+\nanswer +the application behind the site\nwhy +no such file; passed on to the application behind the site \(whenMissing: pass, default\)\n━/,
    );
    expect(behind).not.toMatch(/^fix/m);
  });

  test("a miss: its page, its likeliest cause, the fix", async () => {
    const { status, out } = await run("explain", "http://localhost:8080/Index.html");
    expect(status).toBe(0);
    expect(out).toMatch(/answer +no file; public\/404\.html is sent for the error\n/);
    expect(out).toMatch(
      /why +no such file\nfix +The name on disk is index\.html, and case matters: ask for \/index\.html\.\n/,
    );
  });

  test("a current copy, another method, a folder without a configuration", async () => {
    expect((await run("explain", "/", "--header", "If-None-Match: *")).out).toMatch(
      /condition +if-none-match +not-modified\n/,
    );
    expect((await run("explain", "/", "--method", "PUT")).out).toMatch(
      /^GET|PUT \/: 405 Method Not Allowed\n/,
    );
    expect((await run("explain", "/", "--folder", "public")).out).toMatch(/answer +public\/index\.html\n/);
  });

  test("as JSON, for programs", async () => {
    const { out } = await run("explain", "/about", "--json", "--header", "X-Some: thing");
    expect(JSON.parse(out)).toMatchObject({
      request: { method: "GET", target: "/about", headers: { "x-some": "thing" } },
      outcome: "response",
      status: 404,
      reason: { code: "no-such-file" },
      why: "no such file",
    });
    const stages = JSON.parse(out).trace.map(({ stage }: { stage: string }) => stage);
    expect([...new Set(stages)]).toEqual(["target", "mount", "rules", "candidate", "field"]);
  });
});

test.runIf(process.platform !== "win32")(
  "a process that may open too few files is told so in a sentence",
  async () => {
    // How many a start takes differs from one Node to the next: below that number each limit is told so, and from it on the site is served.
    const outcomes: string[] = [];
    for (const limit of [20, 21, 22, 23, 24, 25, 26]) {
      const child = spawn(
        "sh",
        ["-c", `ulimit -n ${limit}; exec "$0" "$@"`, process.execPath, CLI, "serve", "public", "--port", "0"],
        { cwd: tree.root },
      );
      child.stdout.on("data", (chunk) => /Listening/.test(String(chunk)) && child.kill());
      const { status, out, err } = await finish(child);
      const isTold =
        status === 2 &&
        err.endsWith(
          "This process may open too few files to start; raise the limit, for example with: ulimit -n 1024\n",
        );
      outcomes.push(out.includes("Listening") ? "served" : isTold ? "told" : `${status} ${err}`);
    }
    // Node itself may need more than the least of them.
    expect(
      outcomes.filter((one) => !/^(?:served|told)$|^(?:null|13[34]|139) |too many open files/i.test(one)),
    ).toEqual([]);
    expect(outcomes).toContain("told");
  },
);

describe("what cannot be done ends with status 2 and one sentence", () => {
  test.each<[string, string[], RegExp]>([
    [
      "a missing folder",
      ["serve", "missing-folder"],
      /^FOLDER: found "missing-folder", which does not exist, looked for in .*\.\n$/,
    ],
    [
      "a folder that is a file",
      ["serve", "misspelt.yaml"],
      /^FOLDER: found "misspelt\.yaml", which is a file; .*\.\n$/,
    ],
    [
      "a misspelt key",
      ["serve", "--config", "misspelt.yaml"],
      /^misspelt\.yaml:2:5: mounts\[0\]: found the key "foldr"; write "folder"\.\n$/,
    ],
    [
      "both a folder and a configuration",
      ["serve", "public", "--config", "x.yaml"],
      /^Found both a folder .*\.\n$/,
    ],
    [
      "an invalid port",
      ["serve", "public", "--port", "http"],
      /^--port: found "http"; a port is a whole number from 0 to 65535; 0 picks a free one\.\n$/,
    ],
    [
      "an invalid log form",
      ["serve", "public", "--log", "fancy"],
      /^--log: found "fancy"; write pretty, common, combined, extended, json or off\.\n$/,
    ],
    ["an invalid command", ["srve"], /^Found the command "srve"; write "serve"\.\n$/],
    [
      "an invalid option",
      ["serve", "--prot", "1"],
      /^epistyle serve: found the option "--prot"; write "--port"\.\n$/,
    ],
    [
      "a command like no other",
      ["fly"],
      /^Found the command "fly"; the commands are serve, explain, check, draft, compare, survey, seal, publish, releases, lab, demo\.\n$/,
    ],
    [
      "an option like no other",
      ["serve", "--fly"],
      /^epistyle serve: found the option "--fly"; its options are --config, .*--help\.\n$/,
    ],
    [
      "nothing to explain",
      ["explain"],
      /^epistyle explain: found no TARGET; write the address: a path such as \/guide\/, or the whole URL\.\n$/,
    ],
    [
      "too much to explain",
      ["explain", "GET", "/"],
      /^epistyle explain: found too many arguments; write epistyle explain \[options\] <TARGET>\.\n$/,
    ],
    [
      "an option without its value",
      ["serve", "--port"],
      /^--port: found no value after it; write --port <N>\.\n$/,
    ],
    ["a log form that is nearly one", ["serve", "--log", "jsn"], /^--log: found "jsn"; write "json"\.\n$/],
    [
      "a missing expectations file",
      ["check", "missing.yaml"],
      /^missing\.yaml: there is no such expectations file; check the path\.\n$/,
    ],
    [
      "an expectations file with faults",
      ["check", "wrong.yaml"],
      /^wrong\.yaml:4:14: cases\[0\]\.request: found "GET"; a request is a method and a path without spaces: write it as "GET \/guide\/"\.\nwrong\.yaml:5:15: cases\[0\]\.expect: found the key "stauts"; write "status"\.\n$/,
    ],
    [
      "another version of the format",
      ["check", "version.yaml"],
      /^version\.yaml:1:10: version: found 2; write 1\.\n/,
    ],
    [
      "no configuration named",
      ["check", "noconfig.yaml"],
      /^noconfig\.yaml: names no configuration; .*\.\n$/,
    ],
    [
      "an invalid address",
      ["check", "passing.yaml", "--against", "localhost"],
      /^--against: found "localhost"; write the address of the site, /,
    ],
    [
      "both a folder and a configuration to check",
      ["check", "passing.yaml", "--folder", "public", "--config", "y"],
      /^Found both --config and --folder; /,
    ],
    [
      "an invalid header",
      ["explain", "/", "--header", "Accept"],
      /^--header: found "Accept"; a header field is written 'Name: value'/,
    ],
    [
      "no configuration and no folder",
      ["explain", "/", "--config", "none.yaml"],
      /^none\.yaml: there is no such configuration file; .*\n$/,
    ],
    [
      "a kind without a folder",
      ["serve", "--kind", "app"],
      /^Found --kind or --listing without a folder; .*\.\n$/,
    ],
    [
      "a folder behind an option that takes a file",
      ["serve", "--seal", "public"],
      /^--seal: found "public", which is a folder; write the folder first: epistyle serve public --seal\.\n$/,
    ],
    [
      "a seal that is not there",
      ["serve", "public", "--seal", "none.jsonl"],
      /^none\.jsonl: there is no such seal file; write it with epistyle seal\.\n$/,
    ],
    [
      "a missing folder to seal",
      ["seal", "missing-folder"],
      /^FOLDER: found "missing-folder", which does not exist/,
    ],
    ["an invalid kind", ["serve", "public", "--kind", "spa"], /^--kind: found "spa"; write "app"/],
    [
      "no file to check",
      ["check"],
      /^Found nothing to check: no expectations\.yaml and no \*\.expectations\.yaml is here; name a file or a pack, or write one with epistyle draft\.\n$/,
    ],
    [
      "a folder without a file to check",
      ["check", "."],
      /^\.: no expectations\.yaml and no \*\.expectations\.yaml is in this folder; name a file or a pack\.\n$/,
    ],
  ])("%s", async (_sentence, args, expected) => {
    const { status, out, err } = await run(...args);
    expect([status, out]).toEqual([2, ""]);
    expect(err).toMatch(expected);
  });

  test("a port in use", async () => {
    const other = createServer().listen(0, "127.0.0.1");
    await new Promise((done) => other.once("listening", done));
    const { port } = other.address() as { port: number };
    const { status, err } = await run("serve", "public", "--port", String(port));
    other.close();
    expect([status, err]).toEqual([
      2,
      `Port ${port} on 127.0.0.1 is in use by another program; stop that one, or choose another port (0 picks a free one).\n`,
    ]);
  });
});

describe("check", () => {
  test("all pass: status 0", async () => {
    const { status, out } = await run("check", "passing.yaml");
    expect([status, out]).toEqual([
      0,
      expect.stringMatching(/passed {3}GET \/ +[\d.]+ ms {2}GET \/\n━+\nAll passed: 1 case\.\n$/),
    ]);
  });

  test("a failing case shows what was expected, what came, why, and where it is written: status 1", async () => {
    const { status, out } = await run("check", "failing.yaml");
    const lines = out.split("\n").map((line) => line.trim().replace(/ {2,}/g, "  "));
    expect(status).toBe(1);
    for (const line of [
      "status  expected  404",
      "got  200",
      "media type  expected  text/plain",
      "charset  expected  latin1",
      "tried  default document  index.html  a file",
      "set by  Content-Type  text/html; charset=utf-8  .html in the built-in table; charset: default",
      "why  the default document of the directory",
      "written at  failing.yaml:4:5",
      "ETag  expected  any value",
      "got  nothing",
      "Cache-Control  expected  no-store",
      "Content-Type  expected  a match of /^image//",
      "why  no such file",
      "2 of 3 cases failed.",
    ]) {
      expect(lines).toContain(line);
    }
  });

  test("against a server: the same cases; and no server", async () => {
    const server = await listen(["serve", "--port", "0", "--log", "off"]);
    expect((await run("check", "passing.yaml", "--against", server.url)).status).toBe(0);
    expect((await run("check", "failing.yaml", "--against", server.url)).status).toBe(1);
    await server.stop();
    const { status, out } = await run("check", "passing.yaml", "--against", server.url);
    expect([status, out]).toEqual([
      1,
      expect.stringMatching(/no answer .*no server listens at http:\/\/127\.0\.0\.1:\d+\n/),
    ]);
  });

  test("the demo, and a demo that was broken", async () => {
    expect((await run("check", join(DEMO, "expectations.yaml"))).status).toBe(0);
    const { status, out } = await run(
      "check",
      join(DEMO, "expectations.yaml"),
      "--config",
      "epistyle.config.yaml",
    );
    expect([status, out]).toEqual([1, expect.stringContaining("of 30 cases failed.")]);
  });
});

test("a folder with listings; a reader of the output that goes away", async () => {
  const server = await listen(["serve", "public", "--listing", "--kind", "archive", "--port", "0"]);
  expect((await fetch(server.url)).status).toBe(200);
  await server.stop();
  const child = start(["--help"]);
  child.stdout.destroy();
  expect((await finish(child)).err).toBe("");
});

test("help and version go to standard output, with status 0", async () => {
  const help = await run("--help");
  expect([help.status, help.err]).toEqual([0, ""]);
  for (const command of ["serve", "explain", "check", "demo"]) {
    expect(help.out).toContain(command);
    expect((await run(command, "--help")).out).toContain("Usage: epistyle");
  }
  expect((await run("--version")).out.trim()).toBe(JSON.parse(readFileSync("package.json", "utf8")).version);
});
