import { type ChildProcess, execFileSync, spawn, spawnSync } from "node:child_process";
import { request as askPlain, type RequestOptions } from "node:http";
import { createServer as createListener } from "node:net";
import { join, resolve } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { afterAll, beforeAll, expect, test } from "vitest";
import { makeTemporaryTree, type TemporaryTree } from "../src/testing/index.js";
import { makeCertificate } from "./helpers.js";

// `epistyle serve` as a process of its own: where it listens, its workers, its signals.
let tree: TemporaryTree;
const at = (name: string): string => join(tree.folder, name);

beforeAll(async () => {
  tree = await makeTemporaryTree({
    "public/index.html": "<title>Larkholm</title>",
    "public/large.bin": new Uint8Array(4 * 1024 * 1024),
  });
  makeCertificate(at("one"), "larkholm.example");
});
afterAll(() => tree.close());

type Told = { status: number; body: string };
function ask(options: RequestOptions): Promise<Told> {
  return new Promise((done, failed) => {
    const sent = askPlain(options, (answer) => {
      let body = "";
      answer
        .on("data", (chunk) => (body += chunk))
        .on("end", () => done({ status: answer.statusCode!, body }));
    });
    sent.on("error", failed).end();
  });
}

const serve = async (
  env: Record<string, string>,
  args: string[],
  stdio: (string | number)[] = ["ignore", "pipe", "pipe"],
): Promise<{ child: ChildProcess; out: () => string }> => {
  const child = spawn(process.execPath, [resolve("dist/cli/bin.js"), "serve", "public", ...args], {
    cwd: tree.folder,
    env: { ...process.env, NO_COLOR: "1", ...env },
    stdio: stdio as never,
  });
  let out = "";
  for (const stream of [child.stdout, child.stderr]) stream?.on("data", (chunk) => (out += chunk));
  await expect.poll(() => /Listening on|\.\)?\n$/.test(out)).toBe(true);
  return { child, out: () => out };
};
const end = (child: ChildProcess): Promise<void> =>
  new Promise((done) => {
    child.once("close", () => done());
    child.kill("SIGTERM");
  });

test("that a service manager hands over; a port and a host of the environment; every address of the machine", async () => {
  const listener = createListener();
  await new Promise<void>((done) => void listener.listen(0, "127.0.0.1", done));
  const { port } = listener.address() as { port: number };
  const { fd } = (listener as unknown as { _handle: { fd: number } })._handle;
  const handed = await serve({ LISTEN_FDS: "1" }, ["--log", "off"], ["ignore", "pipe", "pipe", fd]);
  listener.close();
  expect(await ask({ port, path: "/", agent: false })).toMatchObject({
    status: 200,
    body: "<title>Larkholm</title>",
  });
  await end(handed.child);
  const open = await serve({ PORT: "0", HOST: "0.0.0.0" }, [
    "--log",
    "off",
    "--health",
    "/health",
    "--drain",
    "1s",
    "--grace",
    "2s",
  ]);
  // Each line is a write of its own.
  await expect
    .poll(open.out)
    .toMatch(
      /Listening on http:\/\/0\.0\.0\.0:\d+\/\n( {13}http:\/\/[\d.]+:\d+\/\n)*? {13}http:\/\/127\.0\.0\.1:\d+\/\n/,
    );
  await end(open.child);
  const wrong = await serve({ PORT: "abc" }, []);
  expect(wrong.out()).toBe(
    'PORT of the environment: found "abc"; a port is a whole number from 0 to 65535; 0 picks a free one.\n',
  );
  const elsewhere = await serve({ HOST: "host.invalid" }, ["--port", "0"]);
  expect(elsewhere.out()).toMatch(
    /^The host name "host\.invalid" is unknown; write 127\.0\.0\.1 .*\. \(HOST of the environment says so\.\)\n$/,
  );
  const half = await serve({}, ["--port", "0", "--tls-cert", at("one.pem")]);
  expect(half.out()).toContain("--tls-cert: a certificate needs its key; also give --tls-key FILE.");
  const own = await serve({}, ["--socket", at("cli.sock"), "--log", "off"]);
  expect(own.out()).toContain(`Listening on unix:${at("cli.sock")}`);
  await end(own.child);
});

test("workers on one address: metrics of all, a new site, a death and the end lose no request", async () => {
  const { child, out } = await serve({}, [
    "--port",
    "0",
    "--workers",
    "2",
    "--log",
    "json",
    "--metrics",
    "0",
  ]);
  await expect.poll(out).toContain("2 workers");
  const port = Number(/Listening on http:\/\/127\.0\.0\.1:(\d+)/.exec(out())![1]);
  let [stop, asked] = [false, 0];
  const failed: unknown[] = [];
  const visitor = async (): Promise<void> => {
    for (; !stop; asked++) {
      const outcome = await ask({ port, path: "/", agent: false }).catch((error: unknown) => error);
      if ((outcome as Told).status !== 200) failed.push(outcome);
    }
  };
  const visitors = [visitor(), visitor(), visitor()];
  const children = (): number[] =>
    execFileSync("pgrep", ["-P", String(child.pid)], { encoding: "utf8" })
      .trim()
      .split("\n")
      .map(Number);
  await wait(300);
  child.kill("SIGHUP");
  await expect.poll(out).toContain("SIGHUP: the site was opened again; the new one is in use.");
  // On a busy machine that takes a while.
  await expect.poll(() => asked).toBeGreaterThan(20);
  stop = true;
  await Promise.all(visitors);
  expect(failed).toEqual([]);
  const [first] = children();
  process.kill(first!, "SIGKILL");
  await expect.poll(out).toContain("A worker ended (SIGKILL); a new one starts in 0.1 s.");
  await expect.poll(() => children().length).toBe(2);
  for (let turn = 0; turn < 10; turn++)
    expect((await ask({ port, path: "/", agent: false })).status).toBe(200);
  const large = ask({ port, path: "/large.bin", agent: false });
  await wait(150);
  const ended = end(child);
  expect((await large).body.length).toBe(4 * 1024 * 1024);
  await ended;
  await expect(ask({ port, path: "/", agent: false })).rejects.toThrow("ECONNREFUSED");
  expect(out().match(/Listening on/g)).toHaveLength(1);
});

test("what is wrong with a worker's start is told once, and ends them all", async () => {
  const { child, out } = await serve({}, ["--config", "none.yaml", "--workers", "3"]);
  const status = child.exitCode ?? (await new Promise((done) => child.once("close", done)));
  expect([status, out().match(/none\.yaml/g)?.length]).toEqual([2, 1]);
  const metrics = await serve({}, ["--workers", "2", "--metrics", "/metrics"]);
  expect(metrics.out()).toContain(
    '--metrics: found "/metrics", but each worker counts separately; give a port, such as 9100.',
  );
});

/** The processes that a command started. */
const childrenOf = (pid: number): number[] => {
  const { stdout } = spawnSync("pgrep", ["-P", String(pid)], { encoding: "utf8" });
  return stdout.split("\n").filter(Boolean).map(Number);
};

test("a port of the metrics that is taken is told, and nothing of a server is left", async () => {
  const taken = createListener();
  await new Promise<void>((done) => void taken.listen(0, "127.0.0.1", done));
  const { port } = taken.address() as { port: number };
  const { child, out } = await serve({}, ["--port", "0", "--workers", "2", "--metrics", String(port)]);
  const status = child.exitCode ?? (await new Promise((done) => child.once("close", done)));
  expect([status, out()]).toEqual([
    2,
    `Port ${port} on 127.0.0.1 is in use by another program; stop that one, or choose another port (0 picks a free one).\n`,
  ]);
  taken.close();
});

test("workers that die, hang, and are asked for their metrics meanwhile: the site answers, and the stop ends", async () => {
  const freePort = (): Promise<number> =>
    new Promise((done) => {
      const probe = createListener().listen(0, "127.0.0.1", () => {
        const { port } = probe.address() as { port: number };
        probe.close(() => done(port));
      });
    });
  // With port 0, another one is taken when no worker is left for a moment.
  const [port, metricsPort] = [await freePort(), await freePort()];
  const { child, out } = await serve({}, [
    "--port",
    String(port),
    "--workers",
    "2",
    "--log",
    "json",
    "--metrics",
    String(metricsPort),
    "--grace",
    "1s",
  ]);
  await expect.poll(out).toContain("2 workers");
  const scrape = (): Promise<Told> => ask({ port: metricsPort, path: "/", agent: false });
  for (let turn = 0; turn < 6; turn++) {
    const asked = Array.from({ length: 20 }, scrape);
    process.kill(childrenOf(child.pid!)[turn % 2]!, "SIGKILL");
    for (const { status } of await Promise.all([...asked, ...Array.from({ length: 20 }, scrape)]))
      expect(status).toBe(200);
    await expect.poll(() => childrenOf(child.pid!).length).toBe(2);
    await expect
      .poll(
        () =>
          ask({ port, path: "/", agent: false }).then(
            ({ status }) => status,
            () => 0,
          ),
        { timeout: 20_000 },
      )
      .toBe(200);
  }
  await expect.poll(async () => /epistyle_workers|process_/.test((await scrape()).body)).toBe(true);
  const hung = childrenOf(child.pid!)[0]!;
  process.kill(hung, "SIGSTOP");
  await expect.poll(out).toContain(`A worker answers nobody any more (process ${hung}), and is ended.`);
  await expect
    .poll(() => childrenOf(child.pid!).length === 2 && !childrenOf(child.pid!).includes(hung))
    .toBe(true);
  process.kill(childrenOf(child.pid!)[0]!, "SIGSTOP");
  await end(child);
  expect(out()).toContain("1 worker did not stop in time, and is ended.");
  expect(childrenOf(child.pid!)).toEqual([]);
});

test("workers listen on the socket that a service manager hands over to who starts them", async () => {
  const listener = createListener();
  await new Promise<void>((done) => void listener.listen(0, "127.0.0.1", done));
  const { port } = listener.address() as { port: number };
  const { fd } = (listener as unknown as { _handle: { fd: number } })._handle;
  const program = [
    process.execPath,
    resolve("dist/cli/bin.js"),
    "serve",
    "public",
    "--workers",
    "2",
    "--log",
    "off",
  ];
  const child = spawn("sh", ["-c", 'LISTEN_FDS=1 LISTEN_PID=$$ exec "$@"', "sh", ...program], {
    cwd: tree.folder,
    stdio: ["ignore", "pipe", "pipe", fd] as never,
  });
  let out = "";
  for (const stream of [child.stdout, child.stderr]) stream!.on("data", (chunk) => (out += chunk));
  await expect.poll(() => out).toContain("2 workers");
  listener.close();
  for (let turn = 0; turn < 4; turn++)
    expect(await ask({ port, path: "/", agent: false })).toMatchObject({
      status: 200,
      body: "<title>Larkholm</title>",
    });
  await end(child);
});
