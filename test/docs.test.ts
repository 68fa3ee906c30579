import { exec, execFileSync } from "node:child_process";
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { basename, join, resolve } from "node:path";
import { describe, expect, test } from "vitest";
import { parse } from "yaml";
import { startServer } from "../src/adapters/node.js";
import { validate } from "../src/config/problems.js";
import { fileSchema } from "../src/config/schema.js";
import { formatRuleTable } from "../src/config/table.js";
import { openSite } from "../src/index.js";
import { acceptedSchema } from "../src/survey/accepted-schema.js";
import { acceptedFailuresSchema } from "../src/testing/accepted.js";
import { expandCases, loadExpectations } from "../src/testing/index.js";
import { freePort } from "./helpers.js";

interface Example {
  readonly title: string;
  readonly language: string;
  readonly text: string;
}

const files = [
  "README.md",
  ...readdirSync("docs")
    .filter((name) => name.endsWith(".md"))
    .map((name) => join("docs", name)),
];
const examples: Example[] = files.flatMap((file) =>
  [...readFileSync(file, "utf8").matchAll(/```(\w+)\n([\s\S]*?)```/g)].map(([, language, text], index) => ({
    title: `${basename(file)}, example ${index + 1}`,
    language: language!,
    text: text!,
  })),
);
const inLanguage = (language: string): Example[] =>
  examples.filter((example) => example.language === language);

const EXAMPLES = resolve(".cache", "docs");

function writeExample(name: string, text: string): string {
  mkdirSync(EXAMPLES, { recursive: true });
  writeFileSync(join(EXAMPLES, name), text);
  return join(EXAMPLES, name);
}

// The server that is asked runs in this process, so the command must not hold it up.
function runShell(line: string, cwd: string): Promise<{ status: number; out: string }> {
  return new Promise((done) => {
    exec(line, { cwd, timeout: 200_000 }, (error, stdout, stderr) =>
      // What took too long has no status of its own.
      done({ status: error === null ? 0 : (error.code ?? -1), out: stdout + stderr }),
    );
  });
}

test("the reference is what the code says: npm run docs writes it", async () => {
  const tool: string = "../tools/write-reference.mjs";
  const { makeReference } = (await import(/* @vite-ignore */ tool)) as { makeReference(): Promise<string> };
  expect(await makeReference()).toBe(readFileSync("docs/reference.md", "utf8"));
});

test("every command of the page for troubles is one that there is, with its options", () => {
  const text = readFileSync("docs/troubleshooting.md", "utf8");
  const commands = [...text.matchAll(/`(npx epistyle [^`]+)`/g)].map(([, command]) => command!);
  expect(commands.length).toBeGreaterThanOrEqual(20);
  const program = readFileSync("docs/reference.md", "utf8");
  for (const command of commands) {
    const [, , name] = command.split(" ");
    for (const [option] of command.matchAll(/ --[\w-]+/g))
      expect(program, command).toContain(`${option!.trim()}`);
    expect(program, command).toContain(`### epistyle ${name}`);
  }
});

test("the table of rules is what the rules say of themselves: npm run docs writes it", () => {
  expect(readFileSync("docs/choosing-a-file.md", "utf8")).toContain(
    `-->\n${formatRuleTable()}\n<!-- end of table -->`,
  );
});

describe("examples of the docs", () => {
  test.each(inLanguage("yaml"))("$title is a configuration or an expectations file", async ({ text }) => {
    const value = parse(text);
    if ("accept" in value) {
      expect(
        ("version" in value ? acceptedFailuresSchema : acceptedSchema).safeParse(value).error,
      ).toBeUndefined();
      return;
    }
    if (!("version" in value)) {
      const result = validate(fileSchema, value);
      expect(result.ok ? [] : result.problems).toEqual([]);
      return;
    }
    const file = writeExample("expectations.yaml", text);
    const cases = await expandCases(await loadExpectations(file), async () => []);
    expect(cases.length).toBeGreaterThan(0);
  });

  test.each(inLanguage("ts"))("$title runs in Vitest", ({ text }) => {
    writeExample("example.test.ts", text);
    writeExample("vitest.config.mjs", "export default {};");
    const vitest = resolve("node_modules/vitest/vitest.mjs");
    const printed = execFileSync(process.execPath, [vitest, "run", "--config", "vitest.config.mjs"], {
      cwd: EXAMPLES,
      encoding: "utf8",
      timeout: 120_000,
      env: { ...process.env, NO_COLOR: "1" },
    });
    expect(printed).toMatch(/Tests {2}2 passed/);
  });

  test("the commands of docs/testing.md run in their order on the demo, and find nothing wrong", async () => {
    const folder = join(EXAMPLES, "project");
    rmSync(folder, { recursive: true, force: true });
    cpSync("demo/site", join(folder, "public"), { recursive: true });
    writeFileSync(
      join(folder, "epistyle.config.yaml"),
      "mounts: [{ folder: public, errorPages: { 404: /404.html } }]\n",
    );
    const server = await startServer(
      await openSite({ base: folder, mounts: [{ folder: "public", errorPages: { 404: "/404.html" } }] }),
      { port: 0 },
    );
    const text = readFileSync("docs/testing.md", "utf8");
    const commands = [...text.matchAll(/```sh\n([\s\S]*?)```/g)].flatMap(([, block]) =>
      block!.split("\n").filter((line) => line.startsWith("npx epistyle ")),
    );
    expect(commands.length).toBeGreaterThan(10);
    for (const command of commands) {
      const line = command
        .replace(/ +#.*/, "")
        .replaceAll(/https?:\/\/(?:localhost:8080|www\.larkholm\.example)\//g, server.url);
      const { status, out } = await runShell(
        line.replace("npx epistyle", `${process.execPath} ${resolve("dist/cli/bin.js")}`),
        folder,
      );
      expect([line, status, out]).toEqual([line, 0, out]);
    }
    await server.close();
  });

  test.each([
    ["deploying", 4, "SIGHUP: the site was opened again"],
    ["releases", 1, "release 1 of ./store is in use."],
  ])("docs/%s.md can be followed from an empty folder, command by command", async (name, servers, said) => {
    const folder = join(EXAMPLES, name);
    rmSync(folder, { recursive: true, force: true });
    mkdirSync(join(folder, "node_modules/.bin"), { recursive: true });
    // What `npm install epistyle` would make.
    for (const [link, target] of [
      ["epistyle", "."],
      [".bin/epistyle", "dist/cli/bin.js"],
    ])
      symlinkSync(resolve(target!), join(folder, "node_modules", link!));
    const page = readFileSync(`docs/${name}.md`, "utf8");
    const config = /```yaml\n([\s\S]*?)```/.exec(page)?.[1];
    if (config !== undefined) writeFileSync(join(folder, "epistyle.config.yaml"), config);
    const commands = [...page.matchAll(/```sh\n([\s\S]*?)```/g)].map(([, block]) => block!).join("");
    const ports: Record<string, number> = {};
    for (const port of ["8080", "8081", "8443", "9100"]) ports[port] = await freePort();
    const script = commands
      .replace("npm install epistyle\n", "")
      .replace(/serve (?=--store)/g, `serve --port ${ports["8080"]} `)
      .replace(/\b(?:8080|8081|8443|9100)\b/g, (port) => String(ports[port]));
    writeFileSync(
      join(folder, "page.sh"),
      `set -eux\ntrap 'kill $(jobs -p) 2>/dev/null || true' EXIT\n${script}`,
    );
    const { status, out } = await runShell("bash page.sh 2>&1", folder);
    expect([status, status === 0 ? "" : out]).toEqual([0, ""]);
    expect(out).toContain(said);
    expect(out.match(/Listening on/g)).toHaveLength(servers);
  });

  // Those with a server are asked for their front page, in a folder that has one. The README's first is run by tools/check-package.mjs, too.
  const servers = inLanguage("js").filter(
    ({ title, text }) =>
      /^(?:README|recipes)\.md/.test(title) && /\bconst (?:server = |\{ server \})/.test(text),
  );
  test.each(servers)("$title answers", ({ title, text }) => {
    const folder = join(EXAMPLES, "recipes");
    mkdirSync(join(folder, "public"), { recursive: true });
    mkdirSync(join(folder, "tls"), { recursive: true });
    for (const name of ["index.html", "404.html"])
      writeFileSync(join(folder, "public", name), "<h1>Larkholm</h1>");
    const pem = readFileSync("test/fixtures/self-signed.pem");
    for (const name of ["cert.pem", "key.pem"]) writeFileSync(join(folder, "tls", name), pem);
    const file = join(folder, `${title.replaceAll(/\W+/g, "-")}.mjs`);
    writeFileSync(
      file,
      `${text.replaceAll("8080", "0")}
if (server.address?.() === null) await new Promise((done) => server.once("listening", done));
const answer = await fetch(server.url ?? \`http://127.0.0.1:\${server.address().port}/\`);
console.log(answer.status, await answer.text());
process.exit(0);
`,
    );
    const printed = execFileSync(process.execPath, [file], {
      cwd: folder,
      encoding: "utf8",
      timeout: 60_000,
      env: { ...process.env, NODE_TLS_REJECT_UNAUTHORIZED: "0", NODE_NO_WARNINGS: "1" },
    });
    expect(printed).toMatch(/isSignedIn/.test(text) ? /^401/m : /^200 <h1>/m);
  });

  const others = inLanguage("js").filter((one) => !servers.includes(one));
  test.each(others)("$title runs, and prints what it says", ({ text }) => {
    const file = writeExample("example.mjs", text);
    const printed = execFileSync(process.execPath, [file], { encoding: "utf8", timeout: 60_000 });
    for (const [, said] of text.matchAll(/\/\/ prints: (.*)/g)) expect(printed).toContain(said);
  });

  test("every picture and page that is linked is there", () => {
    for (const file of files) {
      for (const [, target] of readFileSync(file, "utf8").matchAll(/\]\(([^)#:]+)\)/g)) {
        expect(() => readFileSync(join(file, "..", target!)), `${file}: ${target}`).not.toThrow();
      }
    }
  });
});

test("the demo data is what its script makes", () => {
  const made = join(".cache", "demo");
  execFileSync(process.execPath, ["demo/make/make.mjs", made]);
  const list = (root: string): string[] =>
    ["site", "archive"].flatMap((folder) =>
      readdirSync(join(root, folder), { recursive: true, withFileTypes: true })
        .filter((entry) => entry.isFile())
        .map((entry) => join(entry.parentPath, entry.name).slice(root.length)),
    );
  expect(list(made).sort()).toEqual(list("demo").sort());
  // Encoders of pictures make other bytes on other processors.
  for (const name of list(made).filter((one) => !/\.(?:avif|webp)$/.test(one)))
    expect(readFileSync(made + name).equals(readFileSync(`demo${name}`)), name).toBe(true);
});
