import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { chmod, mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { findMissing, startObjectStore } from "../examples/releases/object-store.mjs";
import { buildSeason } from "../examples/releases/season.mjs";
import { type StoreServer, startStoreServer } from "../examples/releases/servers.mjs";

// The commands on a folder, and on a real distributed object store where Debian's packages of it are installed.
const CLI = resolve("dist/cli/bin.js");
/** Why there is no object store here; undefined where there is one. */
let missing = findMissing();
const PLACES = ["a folder", "an object store"] as const;

let folder: string;
let objects: Awaited<ReturnType<typeof startObjectStore>> | undefined;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), "epistyle-objects-"));
  // The object store runs as a user of its own.
  await chmod(folder, 0o755);
  if (missing !== undefined) return;
  objects = await startObjectStore(join(folder, "objects")).catch((error: Error) => {
    missing = error.message;
    return undefined;
  });
});

afterAll(async () => {
  await objects?.stop();
  await rm(folder, { recursive: true, force: true });
});

describe.each(PLACES)("%s", (kind) => {
  let place: string;
  let environment: NodeJS.ProcessEnv;
  const servers: StoreServer[] = [];
  beforeAll(() => {
    place = kind === "a folder" ? join(folder, "store") : (objects?.place ?? "");
    environment = { ...process.env, ...objects?.environment, NO_COLOR: "1" };
  });
  afterAll(() => Promise.all(servers.map((one) => one.stop())));

  const run = (...args: string[]): string =>
    execFileSync(process.execPath, [CLI, ...args], { env: environment, encoding: "utf8" });
  const build = async (edition: number): Promise<string> => {
    const path = join(folder, `${kind.length}-build-${edition}`);
    await buildSeason(path, edition);
    return path;
  };
  const ask = async (port: number, path = "/"): Promise<string> => {
    const response = await fetch(`http://127.0.0.1:${port}${path}`);
    return `${response.status} ${
      /edition (\d+)|edition = (\d+)/
        .exec(await response.text())
        ?.slice(1)
        .join("") ?? ""
    }`;
  };

  test("publish, serve from two servers, publish again, go back, remove; a killed server goes on", async ({
    skip,
  }) => {
    if (kind !== "a folder" && missing !== undefined) skip(missing);
    expect(run("publish", await build(1), "--store", place)).toMatch(
      /^Release 1 is present: 5 files, (\S+ kB)\. 5 of them sent, \1\.\n$/,
    );
    for (const port of [0, 0]) {
      const own = environment as Record<string, string>;
      servers.push(
        await startStoreServer({
          place,
          folder: await mkdtemp(join(folder, "server-")),
          port,
          environment: own,
        }),
      );
    }
    const [one, two] = servers as [StoreServer, StoreServer];
    expect(await Promise.all([ask(one.port), ask(two.port)])).toEqual(["200 1", "200 1"]);
    const second = await build(2);
    expect(run("publish", second, "--store", place)).toMatch(
      /^Release 2 is present: 5 files, .*\. 3 of them sent, .*\.\nGo back to the one before with: epistyle releases --store .* --to 1\n$/,
    );
    for (const { port } of servers) await expect.poll(() => ask(port)).toBe("200 2");
    expect(run("publish", second, "--store", place)).toMatch(/^Nothing changed: release 2, which is present/);
    expect(run("releases", "--store", place)).toMatch(/2 {2}\S+ \S+ UTC +5 files +\S+ kB {2}present\n1 {2}/);
    expect(run("releases", "--store", place, "--to", "1")).toBe("Release 1 is present; before it was 2.\n");
    for (const { port } of servers) await expect.poll(() => ask(port)).toBe("200 1");
    expect(run("releases", "--store", place, "--keep", "1")).toBe(
      "Nothing to remove: every release is kept, and every file belongs to one.\n",
    );
    run("publish", await build(3), "--store", place);
    expect(run("releases", "--store", place, "--keep", "1", "--remove")).toMatch(
      /Removed: 2 releases and 6 files that no other one has, .*\.\n$/,
    );
    expect(JSON.parse(run("releases", "--store", place, "--json"))).toMatchObject([
      { number: 3, isPresent: true },
    ]);
    for (const { port } of servers) await expect.poll(() => ask(port)).toBe("200 3");
    await two.stop("SIGKILL");
    expect(await ask(one.port)).toBe("200 3");
    expect(run("explain", "/", "--store", place)).toMatch(/bytes +(?:in memory; )?from files\/\w\w\/\w+\s/);
  });

  test("a publisher that is killed at any moment leaves what was present", async ({ skip }) => {
    if (kind !== "a folder" && missing !== undefined) skip(missing);
    const [server] = servers;
    const path = await build(4);
    const before = await ask(server!.port);
    for (const milliseconds of [250, 400, 550, 700, 900]) {
      const child = spawn(process.execPath, [CLI, "publish", path, "--store", place], {
        env: environment,
        stdio: "ignore",
      });
      const ended = once(child, "exit");
      await wait(milliseconds);
      child.kill("SIGKILL");
      await ended;
      // It was announced for some seconds, so none of them was present.
      expect(await ask(server!.port)).toBe(before);
    }
    run("publish", path, "--store", place);
    await expect.poll(() => ask(server!.port)).toBe("200 4");
  });
});
