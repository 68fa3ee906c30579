import { type ChildProcess, execFileSync, spawn, spawnSync } from "node:child_process";
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join, resolve } from "node:path";
import { DockerfileParser, type JSONInstruction } from "dockerfile-ast";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { loadConfigFile } from "../src/adapters/node.js";
import { openSite } from "../src/index.js";
import { makeTree, type Tree } from "./helpers.js";

const EXAMPLE = "examples/deploying";
let tree: Tree;

beforeAll(async () => {
  tree = await makeTree({
    "public/index.html": "<title>Larkholm</title>",
    "public/404.html": "none",
    "epistyle.config.yaml": readFileSync(join(EXAMPLE, "epistyle.config.yaml"), "utf8"),
  });
});
afterAll(() => tree.remove());

describe("the container", () => {
  const file = DockerfileParser.parse(readFileSync(join(EXAMPLE, "Containerfile"), "utf8"));
  const last = file
    .getInstructions()
    .filter((one) => one.getRange().start.line > file.getFROMs().at(-1)!.getRange().start.line);
  const of = (keyword: string): string =>
    last.find((one) => one.getKeyword() === keyword)!.getArgumentsContent()!;
  const strings = (keyword: string): string[] =>
    (last.find((one) => one.getKeyword() === keyword) as JSONInstruction)
      .getJSONStrings()
      .map((one) => one.getJSONValue());

  test("copies what it serves, and runs as a user without rights", async () => {
    expect(last.filter((one) => one.getKeyword() === "COPY").map((one) => one.getArgumentsContent())).toEqual(
      ["/srv/site/node_modules ./node_modules", "epistyle.config.yaml ./", "public ./public"],
    );
    expect([of("USER"), of("STOPSIGNAL"), of("WORKDIR")]).toEqual(["1000:1000", "SIGTERM", "/srv/site"]);
    expect((await openSite(await loadConfigFile(join(tree.root, "epistyle.config.yaml")))).warnings).toEqual(
      [],
    );
  });

  // As an engine would: a file system that is read only, process 1, another user, no capability.
  test.skipIf(process.getuid?.() !== 0)(
    "its command runs as process 1, tells its health, and stops when it is told to",
    async () => {
      const environment = of("ENV")
        .split(" ")
        .map((one) => one.replace("PORT=8080", "PORT=0"));
      const command = strings("CMD").map((word) =>
        word === "node" ? process.execPath : word.replace(/^5s$/, "1s"),
      );
      const prepare = [
        "mount -t tmpfs none /srv",
        "mkdir -p /srv/site/node_modules/epistyle",
        'cp -r "$0"/. /srv/site',
        'mount --bind "$1" /srv/site/node_modules/epistyle',
        "mount -o remount,ro /srv",
        "mount -o remount,ro,bind /",
        "cd /srv/site",
        "shift",
        `exec setpriv --reuid 1000 --regid 1000 --clear-groups --no-new-privs --inh-caps -all --bounding-set -all env -i ${environment.join(" ")} "$@"`,
      ];
      const child = spawn(
        "unshare",
        [
          "--mount",
          "--pid",
          "--fork",
          "--mount-proc",
          "sh",
          "-ec",
          prepare.join("\n"),
          tree.root,
          resolve("."),
          ...command,
        ],
        { stdio: ["ignore", "pipe", "pipe"] },
      );
      let out = "";
      for (const stream of [child.stdout, child.stderr]) stream.on("data", (chunk) => (out += chunk));
      await expect.poll(() => /Listening on .*:(\d+)/.exec(out)?.[1] ?? out).toMatch(/^\d+$/);
      const port = /Listening on .*:(\d+)/.exec(out)![1]!;
      const inner = Number(execFileSync("pgrep", ["-P", String(child.pid)], { encoding: "utf8" }));
      const status = readFileSync(`/proc/${inner}/status`, "utf8");
      expect([
        /^Uid:\s+(\d+)/m.exec(status)![1],
        /^NSpid:.*\s(\d+)$/m.exec(status)![1],
        /^CapEff:\s+0+$/m.test(status),
      ]).toEqual(["1000", "1", true]);
      expect(await (await fetch(`http://127.0.0.1:${port}/`)).text()).toContain("Larkholm");
      const [, ...check] = JSON.parse(of("HEALTHCHECK").replace(/^CMD /, "")) as string[];
      const health = (at: string): number | null =>
        spawnSync(process.execPath, check, { env: { PORT: at } }).status;
      expect([health(port), health("1")]).toEqual([0, 1]);
      process.kill(inner, "SIGTERM");
      // Not ready from now on, and still answering.
      await expect.poll(async () => (await fetch(`http://127.0.0.1:${port}/health/ready`)).status).toBe(503);
      expect((await fetch(`http://127.0.0.1:${port}/`)).status).toBe(200);
      expect(await exitOf(child)).toBe(0);
    },
  );
});

describe("the units of a service manager", () => {
  test("are understood, and leave the server little that it may do", () => {
    for (const name of ["larkholm.service", "larkholm.socket"])
      writeFileSync(
        join(tree.root, name),
        readFileSync(join(EXAMPLE, name), "utf8").replace("/usr/bin/node", process.execPath),
      );
    const units = ["larkholm.service", "larkholm.socket"].map((name) => join(tree.root, name));
    const analyze = (...args: string[]): string =>
      execFileSync("systemd-analyze", args, { encoding: "utf8", stdio: ["ignore", "pipe", "pipe"] });
    expect(analyze("verify", "--recursive-errors=no", ...units)).toBe("");
    const exposure = Number(
      /Overall exposure level[^:]*: ([\d.]+)/.exec(
        analyze("security", "--offline=true", "--no-pager", units[0]!),
      )![1],
    );
    expect(exposure).toBeLessThan(2);
  });

  test("its command starts, takes its signals, and logs where it may", async () => {
    const [, command] = /^ExecStart=\/usr\/bin\/node node_modules\/epistyle\/(.*)$/m.exec(
      readFileSync(join(EXAMPLE, "larkholm.service"), "utf8"),
    )!;
    const args = command!
      .replace(/\$\{LOGS_DIRECTORY\}/, join(tree.root, "log"))
      .replace("--port 8080", "--port 0")
      .replace("--drain 5s", "--drain 0")
      .split(" ");
    // systemd makes LOGS_DIRECTORY before it starts the command.
    mkdirSync(join(tree.root, "log"));
    const child = spawn(process.execPath, [resolve(args[0]!), ...args.slice(1)], {
      cwd: tree.root,
      stdio: ["ignore", "pipe", "pipe"],
    });
    let out = "";
    for (const stream of [child.stdout, child.stderr]) stream.on("data", (chunk) => (out += chunk));
    await expect.poll(() => out).toContain("Listening on");
    child.kill("SIGHUP");
    await expect.poll(() => out).toContain("SIGHUP: the site was opened again");
    await fetch(/Listening on (\S+)/.exec(out)![1]!);
    child.kill("SIGTERM");
    expect(await exitOf(child)).toBe(0);
    expect(readFileSync(join(tree.root, "log/site.log"), "utf8")).toMatch(
      /^127\.0\.0\.1 - - .*"public\/index\.html"\n$/,
    );
  });
});

function exitOf(child: ChildProcess): Promise<number | null> {
  return new Promise((done) => child.once("exit", done));
}
