import { spawn, spawnSync } from "node:child_process";
import { once } from "node:events";
import { join } from "node:path";
import { build, createLogger } from "vite";
import { afterAll, beforeAll, expect, test } from "vitest";
import { loadConfigFile, startServer } from "../../src/adapters/node.js";
import { openSite, type Site } from "../../src/index.js";
import { Workspace } from "../../src/lab/server/workspace.js";
import { findUnmet, openProbe, runExpectations } from "../../src/testing/index.js";
import { countResults, speakCounts } from "../../src/testing/reports/run.js";
import type { CaseResult } from "../../src/testing/run.js";
import { epistyle } from "../../src/vite/index.js";
import { makeTree, type Tree } from "../helpers.js";

// One file, run by the command, the plugin, the lab, in code and with the matchers: each says the same of each case.
const root = join(import.meta.dirname, "../..");
const FILES = {
  "dist/index.html": `<!doctype html><title>Larkholm</title><link rel="stylesheet" href="/style.css"><a href="/gone.html">gone</a>${"text ".repeat(900)}`,
  "dist/style.css": "main { color: teal }".repeat(100),
  "dist/notes.txt": "notes",
  "epistyle.config.yaml": "mounts: [{ folder: dist, codings: { compress: false } }]\n",
  "site.yaml": `version: 1
config: epistyle.config.yaml
packs: [types, links, codings, app-shell]
cases:
  - { name: the front page, request: GET /, expect: { status: 200, mediaType: text/html } }
  - { name: notes are HTML, request: GET /notes.txt, expect: { mediaType: text/html } }
  - { name: style sheets, each: "*.css", expect: { status: 200, mediaType: text/css } }
`,
};
let tree: Tree;
let site: Site;
beforeAll(async () => {
  tree = await makeTree(FILES);
  site = await openSite(await loadConfigFile(join(tree.root, "epistyle.config.yaml")));
});
afterAll(() => tree.remove());

const sumOf = (results: readonly CaseResult[]): string => speakCounts(countResults(results));
const wrongOf = (results: readonly { readonly outcome: string; readonly name: string }[]): string[] =>
  results.filter(({ outcome }) => outcome === "failed").map(({ name }) => name);

test("the command, the plugin, the lab and a test run the same cases, and count them alike", async () => {
  const results = await runExpectations(join(tree.root, "site.yaml"), site);
  const sum = sumOf(results);
  const wrong = results.filter(({ outcome }) => outcome === "failed").map(({ case: { name } }) => name);
  expect([sum, wrong.length > 1, wrong[0]]).toEqual([
    expect.stringMatching(/^\d of \d+ cases failed, 1 skipped, \d could be better\.$/),
    true,
    "notes are HTML",
  ]);

  const command = spawnSync(process.execPath, [join(root, "dist/cli/bin.js"), "check", "site.yaml"], {
    cwd: tree.root,
    encoding: "utf8",
  });
  expect([command.status, command.stdout.trim().split("\n").at(-1)]).toEqual([1, sum]);

  const lab = await Workspace.open({
    load: () => loadConfigFile(join(tree.root, "epistyle.config.yaml")),
    file: undefined,
    draft: undefined,
    expectations: { path: join(tree.root, "site.yaml") } as never,
    canSave: false,
    address: undefined,
    about: "a test",
    schema: {},
  });
  const shown = await lab.check(FILES["site.yaml"]);
  if (shown.kind !== "results") throw new Error(JSON.stringify(shown.problems));
  expect([shown.sum, wrongOf(shown.cases)]).toEqual([sum, wrong]);

  const said: string[] = [];
  const logger = createLogger("info");
  for (const level of ["info", "warn", "error"] as const) logger[level] = (text) => void said.push(text);
  const failed = await build({
    root: tree.root,
    configFile: false,
    customLogger: logger,
    // What is there is looked over as it is.
    build: { outDir: "built", rolldownOptions: { input: join(tree.root, "dist/style.css") } },
    plugins: [epistyle({ check: ["site.yaml"] })],
  }).then(
    () => "",
    (error: Error) => error.message,
  );
  expect([
    said.join("\n").includes(`expectations: ${sum}`),
    wrong.filter((name) => !failed.includes(name)),
  ]).toEqual([true, []]);
});

test("over the network, too", async () => {
  const server = await startServer(site, { port: 0 });
  const path = join(tree.root, "site.yaml");
  const inProcess = await runExpectations(path, site);
  const asked = await runExpectations(path, server.url);
  const own = (results: readonly CaseResult[]) =>
    results
      .filter((one) => one.case.group === undefined)
      .map(({ case: { name }, outcome }) => [name, outcome]);
  expect(own(asked)).toEqual(own(inProcess));
  await server.close();
});

test("the matchers judge as the runner does", async () => {
  const probe = await openProbe(site);
  const judged = async (path: string, expected: object): Promise<boolean> =>
    findUnmet(await probe.get(path), expected).length === 0;
  expect([
    await judged("/", { status: 200, mediaType: "text/html" }),
    await judged("/notes.txt", { mediaType: "text/html" }),
    await judged("/style.css", { status: 200, mediaType: "text/css" }),
  ]).toEqual([true, false, true]);
  await probe.close();
});

test("a file of which every case is skipped passes nowhere", async () => {
  const text = "version: 1\nconfig: epistyle.config.yaml\npacks: [variants]\n";
  const only = await makeTree({ "epistyle.config.yaml": "mounts: [{ folder: . }]\n", "skip.yaml": text });
  const { status, stderr } = spawnSync(
    process.execPath,
    [join(root, "dist/cli/bin.js"), "check", "skip.yaml"],
    {
      cwd: only.root,
      encoding: "utf8",
    },
  );
  expect([status, stderr]).toEqual([1, "Nothing was checked: every case was skipped.\n"]);
  await only.remove();
});

test("a server without anything is told of as that, and does not pass", async () => {
  const empty = await makeTree({ "note.bak": "x" });
  const nothing = await openSite({ mounts: [{ folder: empty.root, withheld: ["*.bak"] }] });
  const server = await startServer(nothing, { port: 0 });
  const args = ["check", "types", "conditional", "--against", server.url];
  const child = spawn(process.execPath, [join(root, "dist/cli/bin.js"), ...args]);
  let text = "";
  child.stdout.on("data", (piece) => (text += piece));
  const [status] = await once(child, "close");
  expect([status, /has something to look at/.test(text)]).toEqual([1, true]);
  await server.close();
  await empty.remove();
});
