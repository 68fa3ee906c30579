import { spawnSync } from "node:child_process";
import { writeFileSync } from "node:fs";
import { join, resolve } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { makeTree, type Tree } from "./helpers.js";

// Wrong uses, and the sentence that each gets: what is wrong, where, and what to write.
const CLI = resolve("dist/cli/bin.js");
let tree: Tree;
beforeAll(async () => {
  tree = await makeTree({
    "public/index.html": "home",
    "throws.mjs": "const a = 1;\nmissing();\nexport default {};\n",
    "common.mjs": "module.exports = {};\n",
    "open.mjs": "export default {\n",
    "nothing.mjs": "export const a = 1;\n",
    "right.cjs": "module.exports = { mounts: [{ folder: 'public' }] };\n",
    "typed.ts": "export default { mounts: [{ folder: 'public' as string }] };\n",
    "empty.yaml": "",
    "list.yaml": "[]\n",
    "tab.yaml": "mounts:\n\t- folder: public\n",
    "brace.yaml": "mounts: [ { folder: public\n",
    "twice.yaml": "mounts: []\nmounts: []\n",
    "star.yaml": "mounts:\n  - folder: public\n    withheld: [*.bak]\n",
  });
});
afterAll(() => tree.remove());

const run = (...args: string[]) => spawnSync(process.execPath, [CLI, ...args], { cwd: tree.root, encoding: "utf8", env: { ...process.env, NO_COLOR: "1" }, timeout: 20_000 });

test.each([
  ["an empty file", "empty.yaml", "found nothing; a group of keys is needed here: begin with mounts: [{ folder: ./public }]"],
  ["a list", "list.yaml", "list.yaml:1:1: found []; a group of keys is needed here: begin with mounts:"],
  ["a tab", "tab.yaml", "tab.yaml:2:1: found a tab; YAML is indented with spaces"],
  ["an open bracket", "brace.yaml", "brace.yaml:2:1: the line is not indented like"],
  ["a key that stands there twice", "twice.yaml", "twice.yaml:2:1: the key is here twice; write it once."],
  ["a pattern without quotes", "star.yaml", 'found *.bak without quotes, which YAML reads as an alias; put patterns in quotes: "*.bak".'],
  ["a module that throws", "throws.mjs", "throws.mjs:2: the module could not be loaded: missing is not defined."],
  ["a module of the other kind", "common.mjs", "Write export default { … } instead of module.exports, or name the file .cjs."],
  ["a module that does not end", "open.mjs", "open.mjs: the module could not be loaded:"],
  ["a module without a default", "nothing.mjs", "nothing.mjs: the module has no default export; write export default { mounts: [ … ] }."],
  ["a folder", "public", "public: this is a folder; name the configuration file in it."],
  ["another ending", "typed.toml", "typed.toml: a configuration is a .yaml, .json, .js, .mjs, .cjs, .ts or .mts file"],
])("as a configuration: %s", (_title, file, message) => {
  const { status, stderr, stdout } = run("explain", "/", "-c", file);
  expect([status, stdout]).toEqual([2, ""]);
  expect(stderr).toContain(message);
});

test("a CommonJS module is read; TypeScript where Node runs it", () => {
  expect(run("explain", "/", "--config", "right.cjs").stdout).toContain("200 OK");
  const { status, stdout, stderr } = run("explain", "/", "--config", "typed.ts");
  if (status === 0) expect(stdout).toContain("200 OK");
  else expect(stderr).toMatch(/^typed\.ts: this Node \(v[\d.]+\) cannot run TypeScript; use Node 22\.18 or later, or write it as \.mjs\.\n$/);
});

test.each([
  ["index: home.html", 'found the key "index"; write "defaultDocuments"'],
  ["fallback: index.html", 'found the key "fallback"; write "appShell"'],
  ["max-age: 1d", 'found the key "max-age"; write "caching"'],
  ["root: dist", 'found the key "root"; write "folder"'],
  ["prefix: /a", 'found the key "prefix"; write "at"'],
  ["caching: immutable", "a list is needed here: write caching: [{ files: fingerprinted, policy: immutable }]"],
  ["caching: { policy: immutable }", "a list is needed here: write caching: [{ files: fingerprinted, policy: immutable }]"],
  ["withheld: '*.bak'", 'a list is needed here: write ["*.bak"]'],
  ["headers: { X-A: b }", 'a list is needed here: write headers: [{ files: "*.html", set: { X-Season: spring } }]'],
  ["codings: [br]", "a group of keys is needed here: write codings: { prebuilt: [br, gzip] }"],
  ["appShell: true", "found true; write appShell: { file: /index.html, except: [/api] }"],
  ["protect: { framing: self }", 'protect.framing: found "self"; write "none" or "same-origin" or "anywhere"'],
  ["listing: on", 'listing: found "on"; write true'],
  ["digests: 'no'", 'digests: found "no"; write false'],
  ["errorPages: { 404: null }", 'errorPages["404"]: found nothing; a text is needed here'],
  ["areas: null", "areas: found nothing; a group of keys is needed here"],
  ["earlierReleases: ../old", 'write ["../old"]'],
  ["links: true", 'links: found true; write "inside" or "none" or "anywhere"'],
])("of a mount: %s", (line, message) => {
  const file = `mount-${line.replace(/\W+/g, "-")}.yaml`;
  writeFileSync(join(tree.root, file), `mounts:\n  - folder: public\n    ${line}\n`);
  const { status, stderr } = run("explain", "/", "--config", file);
  expect(status).toBe(2);
  expect(stderr).toContain(message);
  expect(stderr).toMatch(/:3:\d+: mounts\[0\]/);
});

test.each<[string[], string]>([
  [["serve", "-x", "public"], 'epistyle serve: found the option "-x"'],
  [["serve", "public", "--port"], "--port: found no value after it; write --port <N>."],
  [["serve", "public", "-p", "web"], '--port: found "web"; a port is a whole number from 0 to 65535'],
  [["serve", "nope"], 'FOLDER: found "nope", which does not exist'],
  [["serve", "public", "--kind", "spa"], '--kind: found "spa"; write pages, app or archive.'],
  [["explain"], "epistyle explain: found no TARGET; write the address: a path such as /guide/, or the whole URL."],
  [["check", "nope.yaml"], "nope.yaml: there is no such expectations file; check the path."],
  [["exposure"], 'Found the command "exposure"; it is a pack: write epistyle check exposure.'],
  [["compare"], "epistyle compare: found no HERE"],
  [["lab", "public", "--port", "x"], '--port: found "x"; a port is a whole number from 0 to 65535'],
])("on the command line: %j", (args, message) => {
  const { status, stderr, stdout } = run(...args);
  expect([status, stdout]).toEqual([2, ""]);
  expect(stderr).toContain(message);
});

test("without a word it says what one does first", () => {
  expect(run().stdout + run().stderr).toMatch(/First steps:\n {2}epistyle serve \.\/public/);
});
