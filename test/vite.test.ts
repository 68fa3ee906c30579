import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { isDeepStrictEqual } from "node:util";
import { build, createLogger, createServer, type InlineConfig, preview } from "vite";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { loadConfigFile, startServer } from "../src/adapters/node.js";
import { openSite } from "../src/index.js";
import { NAVIGATION } from "../src/testing/ask/ask.js";
import { askServer } from "../src/testing/index.js";
import { type EpistyleOptions, epistyle } from "../src/vite/index.js";
import { freePort, makeTree, type Tree } from "./helpers.js";

// The plugin, with real builds of Vite.
const FILES = {
  "index.html":
    '<!doctype html><html lang="en"><head><title>Larkholm</title></head><body><main></main><script type="module" src="/main.js"></script></body></html>',
  "main.js": `document.querySelector("main").textContent = ${JSON.stringify("Larkholm ".repeat(400))};`,
  "public/notes.txt": "notes",
  "public/secret.map": "{}",
  "public/dump.sql": "INSERT INTO sightings VALUES (1);",
  "open.config.yaml": "mounts: [{ folder: dist }]\n",
  "epistyle.config.yaml":
    "mounts:\n  - folder: dist\n    kind: app\n    withheld: ['*.map', '*.sql']\n    codings: { prebuilt: [br, gzip] }\n    caching: [{ files: fingerprinted, policy: immutable }]\n",
  "archive/2026/a & b.txt": "records",
  "dev.config.yaml":
    "mounts:\n  - folder: dist\n    kind: app\n  - { at: /archive, folder: archive, kind: archive }\n",
  "rules.config.yaml":
    "protect: true\nmoved: { /old-guide: /guide }\nmounts:\n  - folder: dist\n    kind: app\n    appShell: { file: /index.html, except: [/api] }\n    impliedExtensions: [.html]\n    errorPages: { 404: /404.html }\n    withheld: ['*.map', drafts]\n    headers: [{ files: '**', set: { X-Site: larkholm } }]\n",
  "guide.html": "<title>The guide</title>",
  "404.html": "<title>no such page</title>",
  "drafts/plan.html": "<title>drafts are nobody's</title>",
  "src/notes.md": "for developers",
  "right.yaml":
    "version: 1\ncases:\n  - { name: the application, request: GET /, expect: { status: 200, mediaType: text/html } }\n  - { name: bundles, each: assets/*.js, expect: { status: 200, caching: fresh for at least 1 year } }\n",
  "wrong.yaml":
    "version: 1\ncases:\n  - { name: notes are HTML, request: GET /notes.txt, expect: { mediaType: text/html } }\n",
};
let tree: Tree;
beforeAll(async () => {
  tree = await makeTree(FILES);
});
afterAll(() => tree.remove());

function configure(
  options: EpistyleOptions,
  more: InlineConfig = {},
): { config: InlineConfig; said: string[] } {
  const said: string[] = [];
  const logger = createLogger("info");
  for (const level of ["info", "warn", "error"] as const) logger[level] = (text) => void said.push(text);
  return {
    said,
    config: {
      root: tree.root,
      cacheDir: "cache",
      configFile: false,
      customLogger: logger,
      plugins: [epistyle(options)],
      ...more,
    },
  };
}

describe("after a build", () => {
  test("codings, a survey, expectations and a seal; what holds is told in Vite's own log", async () => {
    const { config, said } = configure({
      prebuilt: ["br", "gzip"],
      survey: "severe",
      check: ["right.yaml"],
      seal: "seal.jsonl",
    });
    await build(config);
    expect(said.join("\n")).toMatch(/2 codings are written: this saves [\d.]+ kB\.\n/);
    expect(said.join("\n")).toMatch(/The built files against their expectations: All passed: 2 cases\.\n/);
    expect(readFileSync(join(tree.root, "seal.jsonl"), "utf8")).toContain('"path":"index.html"');
  });

  test.each<[string, EpistyleOptions, RegExp]>([
    [
      "an expectation that does not hold",
      { check: ["wrong.yaml"] },
      /notes are HTML[\s\S]*media type +expected {2}text\/html[\s\S]*got +text\/plain/,
    ],
    ["a finding", { config: "open.config.yaml", survey: "severe" }, /severe: .*\/dump\.sql\. .* Fix: /],
    ["no configuration", { config: "none.yaml", survey: "severe" }, /none\.yaml/],
  ])("%s fails it", async (_title, options, message) => {
    await expect(build(configure(options).config)).rejects.toThrow(message);
  });
});

test("a preview answers as production does: status, fields and bytes, whatever is asked", async () => {
  const { config } = configure({ prebuilt: ["br", "gzip"] }, { preview: { port: 0, host: "127.0.0.1" } });
  await build(config);
  const server = await preview(config);
  const production = await startServer(
    await openSite(await loadConfigFile(join(tree.root, "epistyle.config.yaml"))),
    {
      port: 0,
    },
  );
  const [bundle] = readdirSync(join(tree.root, "dist/assets")).filter((name) => name.endsWith(".js"));
  const paths = [
    "/",
    "/index.html",
    `/assets/${bundle}`,
    "/assets/none.js",
    "/notes.txt",
    "/secret.map",
    "/deep/link",
  ];
  const more = [
    "/deep/link.x",
    "//notes.txt",
    "/%zz",
    "/notes.txt/",
    "/assets",
    "/index.html?x=1",
    "/@vite/client",
  ];
  const heads: Record<string, string>[] = [
    {},
    NAVIGATION,
    { "Accept-Encoding": "br" },
    { Origin: "https://elsewhere.example", "Access-Control-Request-Method": "GET" },
    { Range: "bytes=0-3" },
  ];
  const differences: unknown[] = [];
  let asked = 0;
  const askers = [askServer(server.resolvedUrls!.local[0]!), askServer(production.url)] as const;
  for (const path of [...paths, ...more])
    for (const method of ["GET", "HEAD", "OPTIONS", "POST"])
      for (const headers of heads) {
        asked++;
        const [here, there] = await Promise.all(
          askers.map(async (asker) => {
            const { status, headers: fields, body } = await asker.ask({ method, path, headers });
            const { date: _date, connection: _connection, "keep-alive": _alive, ...rest } = fields;
            return { status, rest, body: Buffer.from(body).toString("base64") };
          }),
        );
        if (!isDeepStrictEqual(here, there)) differences.push([method, path, headers, here, there]);
      }
  expect([asked > 200, differences]).toEqual([true, []]);
  for (const asker of askers) await asker.close();
  await production.close();
  await server.close();
});

test("who watches a build goes on after one that failed, and is told why", async () => {
  const { config, said } = configure({ check: ["wrong.yaml"] }, { build: { watch: {} } });
  const watcher = (await build(config)) as unknown as { close(): Promise<void> };
  const countTold = () => said.filter((text) => /notes are HTML/.test(text)).length;
  await expect.poll(countTold).toBe(1);
  // Until the change is seen: the watch may begin a little later.
  let turn = 0;
  await expect
    .poll(
      () => {
        writeFileSync(join(tree.root, "main.js"), `${FILES["main.js"]}${"\n".repeat(++turn)}`);
        return countTold() > 1;
      },
      { interval: 500 },
    )
    .toBe(true);
  await watcher.close();
});

test("codings of content that an earlier build had are kept, and a damaged one is made again", async () => {
  const { config, said } = configure({ prebuilt: ["br", "gzip"] });
  await build(config);
  const cache = join(tree.root, "cache");
  const [folder] = readdirSync(cache).filter((name) => name.startsWith("epistyle-codings"));
  const kept = readdirSync(join(cache, folder!));
  writeFileSync(join(cache, folder!, kept[0]!), "damaged");
  said.length = 0;
  await build(config);
  expect([kept.length, said.join("\n")]).toEqual([
    2,
    expect.stringMatching(/2 codings are written, 1 of them kept from an earlier build: /),
  ]);
});

test("with another configuration the server of development starts again", async () => {
  writeFileSync(join(tree.root, "turn.config.yaml"), "mounts: [{ folder: dist, kind: app }]\n");
  const { config, said } = configure(
    { config: "turn.config.yaml" },
    // It starts again on its own port.
    { server: { port: await freePort(), host: "127.0.0.1" }, optimizeDeps: { noDiscovery: true } },
  );
  const server = await createServer(config);
  await server.listen();
  const url = `${server.resolvedUrls!.local[0]}notes.txt`;
  const read = async () => (await fetch(url).catch(() => ({ status: 0 }))).status;
  expect(await read()).toBe(200);
  writeFileSync(
    join(tree.root, "turn.config.yaml"),
    "mounts: [{ folder: dist, kind: app, withheld: [notes.txt] }]\n",
  );
  await expect.poll(read).toBe(404);
  expect(said.join("\n")).toContain("turn.config.yaml changed: the server starts again.");
  await server.close();
});

test("in development the other mounts are the configuration's, and the rest is Vite's", async () => {
  const { config, said } = configure(
    { config: "dev.config.yaml" },
    { server: { port: 0, host: "127.0.0.1" }, optimizeDeps: { noDiscovery: true } },
  );
  const server = await createServer(config);
  await server.listen();
  const [url] = server.resolvedUrls!.local;
  const read = async (path: string): Promise<string> => {
    const answer = await fetch(url!.replace(/\/$/, "") + path, { headers: { accept: "text/html" } });
    return `${answer.status} ${await answer.text()}`;
  };
  expect(await read("/archive/2026/")).toMatch(/^200 [\s\S]*a &amp; b\.txt/);
  expect(await read("/archive/2026/a%20%26%20b.txt")).toBe("200 records");
  expect(await read("/archive/none.txt")).toMatch(/^404 /);
  expect(await read("/")).toContain("/@vite/client");
  expect(await read("/main.js")).toMatch(/^200 document\.querySelector/);
  expect(said.join("\n")).toMatch(
    /GET \/archive\/2026\/ 200 the listing of the directory[\s\S]*GET \/archive\/none\.txt 404 none: no such file/,
  );
  await server.close();
});

test("in development what is withheld cannot be had by any of Vite's own addresses", async () => {
  const { config } = configure(
    { config: "rules.config.yaml" },
    { server: { port: 0, host: "127.0.0.1" }, optimizeDeps: { noDiscovery: true } },
  );
  const server = await createServer(config);
  await server.listen();
  const asker = askServer(server.resolvedUrls!.local[0]!);
  const paths = [
    "/secret.map",
    "/public/secret.map",
    `/@fs${tree.root}/public/secret.map`,
    "/drafts/plan.html",
    "/drafts/plan",
    `/@fs${tree.root}/drafts/plan.html`,
    "/%70ublic/secret.map",
    `/@fs/${tree.root}/public/secret.map`,
    `/@fs${tree.root}/src/../public/secret.map`,
  ];
  const got: string[] = [];
  for (const path of paths)
    for (const query of ["", "?raw", "?url", "?import", "?import&raw", "?inline", "?t=1"]) {
      const { status, body } = await asker.ask({
        method: "GET",
        path: path + query,
        headers: { Accept: "*/*" },
      });
      const text = new TextDecoder().decode(body);
      if (status < 400 || /nobody's|^\{\}/.test(text))
        got.push(`${path}${query}: ${status} ${text.slice(0, 40)}`);
    }
  expect(got).toEqual([]);
  // What is offered stays within reach of the transforms.
  for (const path of ["/main.js", "/notes.txt", "/public/notes.txt?raw"])
    expect((await asker.ask({ method: "GET", path, headers: {} })).status).toBe(200);
  await asker.close();
  await server.close();
});

test("in development the rules of what Vite builds hold beside its transforms", async () => {
  const { config, said } = configure(
    { config: "rules.config.yaml" },
    { server: { port: 0, host: "127.0.0.1" }, optimizeDeps: { noDiscovery: true } },
  );
  const server = await createServer(config);
  await server.listen();
  const asker = askServer(server.resolvedUrls!.local[0]!);
  const tell = async (
    path: string,
    headers: Record<string, string> = {},
    method = "GET",
  ): Promise<string> => {
    const { status, headers: fields, body } = await asker.ask({ method, path, headers });
    return [status, fields.location, fields["x-site"], new TextDecoder().decode(body)]
      .filter((one) => one !== undefined)
      .join(" ");
  };
  // The shell answers a deep link, through Vite's transforms, with the header fields of the rules.
  const deep = await tell("/records/42", { ...NAVIGATION, "if-none-match": "*" });
  expect(deep).toMatch(/^200 larkholm <!doctype html>[\s\S]*\/@vite\/client/);
  for (const [path, wanted] of [
    ["/", /^200 larkholm [\s\S]*\/@vite\/client/],
    ["/main.js", /^200 larkholm document/],
    [
      "/lost.js",
      /^404 larkholm [\s\S]*no such page[\s\S]*\/@vite\/client|^404 larkholm [\s\S]*\/@vite\/client[\s\S]*no such page/,
    ],
    ["/old-guide", /^301 \.\/guide/],
    ["/guide", /^200 larkholm [\s\S]*The guide/],
    ["/secret.map", /^404/],
    ["/notes.txt", /^200 larkholm notes/],
    ["/api/birds", /^404/],
    ["/src", /^200 larkholm [\s\S]*<main>/],
  ] as const)
    expect(await tell(path, path === "/lost.js" ? { accept: "*/*" } : { accept: "text/html" }), path).toMatch(
      wanted,
    );
  expect(await tell("/", { accept: "text/html" }, "HEAD")).toMatch(/^200 larkholm $/);
  expect(said.join("\n")).toMatch(
    /GET \/records\/42 200 .*index\.html \(the app shell[\s\S]*GET \/lost\.js 404 none: no such file/,
  );
  await asker.close();
  await server.close();
});

test("a build that fails is not looked over: what lies there is an earlier one's", async () => {
  const { config, said } = configure(
    { check: ["wrong.yaml"] },
    { build: { rollupOptions: { input: "none.html" } } },
  );
  await expect(build(config)).rejects.toThrow(/none\.html/);
  expect(said.join("\n")).not.toContain("of what was built");
});

describe("preview", () => {
  test("answers as production will, and nothing of Vite's own besides; a proxy stays the application's", async () => {
    const { config, said } = configure(
      {},
      { preview: { port: 0, host: "127.0.0.1", proxy: { "/api": "http://127.0.0.1:9" } } },
    );
    await build(config);
    const server = await preview(config);
    const [url] = server.resolvedUrls!.local;
    // The platform's fetch writes Sec-Fetch-Mode by itself.
    const asker = askServer(url!);
    const tell = async (path: string, headers: Record<string, string> = {}): Promise<unknown[]> => {
      const answer = await asker.ask({ method: "GET", path, headers });
      return [answer.status, answer.headers["cache-control"], answer.headers["x-content-type-options"]];
    };
    const bundle = /assets\/[^"]+\.js/.exec(readFileSync(join(tree.root, "dist/index.html"), "utf8"))![0];
    expect(await tell(`/${bundle}`)).toEqual([200, "public, max-age=31536000, immutable", "nosniff"]);
    expect(await tell("/records/42", { ...NAVIGATION })).toEqual([200, "no-cache", "nosniff"]);
    expect(await tell("/lost.js")).toEqual([404, "no-cache", "nosniff"]);
    expect(await tell("/secret.map")).toEqual([404, "no-cache", "nosniff"]);
    expect((await tell("/api/birds"))[0]).toBeGreaterThanOrEqual(500);
    expect(said.join("\n")).toMatch(
      /GET \/secret\.map 404 none: withheld: the pattern "\*\.map" of mounts\[0\]/,
    );
    await asker.close();
    await server.close();
  });
});
