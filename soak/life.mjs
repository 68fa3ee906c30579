// What a week brings to the commands that serve, in some minutes: sites that are opened again, certificates that are renewed, workers
// that die, scrapes, clients over TLS that reset or say nothing, and an open lab.
import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import {
  mkdtempSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  renameSync,
  rmSync,
  writeFileSync,
} from "node:fs";
import { connect as connectHttp2 } from "node:http2";
import { request } from "node:https";
import { connect, createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { connect as connectTls } from "node:tls";

const CLI = join(import.meta.dirname, "../dist/cli/bin.js");
const TLS = { host: "127.0.0.1", rejectUnauthorized: false };
const FILES = { "index.html": "<title>Larkholm</title>", "large.bin": "x".repeat(3_000_000) };

/**
 * Lives through some rounds. Gives what was wrong, and for each process what it held before and at the end, and its memory after each
 * round, in bytes.
 */
export async function live({ rounds, onRound = () => {} }) {
  const folder = mkdtempSync(join(tmpdir(), "epistyle-life-"));
  const commands = [];
  try {
    execFileSync("mkdir", ["-p", join(folder, "public")]);
    for (const [name, text] of Object.entries(FILES)) writeFileSync(join(folder, "public", name), text);
    renewCertificate(folder, 0);
    const [port, metrics, plain] = [await freePort(), await freePort(), await freePort()];
    const secure = await serve(commands, folder, [
      ...["public", "--seal", "--port", String(port), "--workers", "2", "--metrics", String(metrics)],
      ...[
        "--tls-cert",
        "one.pem",
        "--tls-key",
        "one.key",
        "--log",
        "json",
        "--log-file",
        "life.log",
        "--grace",
        "2s",
      ],
    ]);
    await until(() => secure.said.includes("2 workers"), "two workers");
    writeConfiguration(folder, 0);
    const withLab = await serve(commands, folder, [
      "--port",
      String(plain),
      "--lab",
      "--edit",
      "--log",
      "off",
    ]);
    await until(() => /The lab is at http/.test(withLab.said), "the lab");
    const lab = /The lab is at (http\S+)/.exec(withLab.said)[1];
    const wrong = [];
    const before = [await measure(secure.child.pid), await measure(withLab.child.pid)];
    const memory = [];
    for (let round = 1; round <= rounds; round++) {
      const told = await Promise.allSettled([
        liveSecure({ folder, secure, port, metrics, round }),
        liveWithLab({ folder, withLab, plain, lab, round }),
      ]);
      for (const { reason } of told)
        if (reason !== undefined) wrong.push(`round ${round}: ${reason.message}`);
      const [one, two] = [await measure(secure.child.pid), await measure(withLab.child.pid)];
      memory.push(one.bytes + two.bytes);
      onRound(round, one, two);
    }
    // Whoever left is let go of by then.
    await until(
      async () => (await measure(secure.child.pid)).sockets <= before[0].sockets + 2,
      "sockets to close",
      70_000,
    ).catch((error) => wrong.push(error.message));
    const after = [await measure(secure.child.pid), await measure(withLab.child.pid)];
    for (const { said } of commands)
      if (/Warning: Possible|MaxListeners|Error:|\n {4}at /.test(said)) wrong.push(said.slice(-2000));
    for (const { child } of commands) {
      const ended = once(child, "close");
      child.kill("SIGTERM");
      const [status] = await Promise.race([ended, wait(20_000, ["it never ended"])]);
      if (status !== 0) wrong.push(`the end: ${status}`);
    }
    return { wrong, before, after, memory };
  } finally {
    for (const { child } of commands) if (child.exitCode === null) child.kill("SIGKILL");
    rmSync(folder, { recursive: true, force: true });
  }
}

async function liveSecure({ folder, secure, port, metrics, round }) {
  if (round % 3 === 0) renewCertificate(folder, round);
  if (round % 2 === 0) secure.child.kill("SIGHUP");
  if (round % 4 === 1) {
    const [worker] = childrenOf(secure.child.pid).slice(-1);
    if (worker !== undefined) process.kill(worker, "SIGKILL");
  }
  await Promise.all([
    ...Array.from({ length: 20 }, () => ask(`http://127.0.0.1:${metrics}/`)),
    ...Array.from({ length: 40 }, (_, index) => resetSoon(port, index % 20)),
    ...Array.from({ length: 5 }, () => leaveSilent(port)),
  ]);
  await until(() => childrenOf(secure.child.pid).length === 2, "a new worker");
  for (let turn = 0; turn < 10; turn++) {
    await until(
      async () => (await askTls(port, "/").catch(() => "")) === FILES["index.html"],
      "an answer over TLS",
    );
    await until(
      async () => (await askStream(port, "/large.bin").catch(() => 0)) === FILES["large.bin"].length,
      "a stream",
    );
  }
}

async function liveWithLab({ folder, withLab, plain, lab, round }) {
  writeConfiguration(folder, round);
  if (round % 2 === 0) withLab.child.kill("SIGHUP");
  const watching = new AbortController();
  const events = await fetch(`${lab}api/watch`, { signal: watching.signal });
  for (let turn = 0; turn < 20; turn++) {
    const answer = await fetch(`http://127.0.0.1:${plain}/?${turn}`);
    if ((await answer.text()) !== FILES["index.html"]) throw new Error("another page");
    const asked = { method: "GET", target: "/large.bin", as: "navigation", headers: {}, behind: false };
    const headers = { "Content-Type": "application/json" };
    const beam = await fetch(`${lab}api/ask`, { method: "POST", headers, body: JSON.stringify(asked) });
    if (beam.status !== 200) throw new Error(`the lab answered ${beam.status}`);
    await beam.json();
  }
  watching.abort();
  await events.body.cancel().catch(() => {});
}

function writeConfiguration(folder, round) {
  writeFileSync(
    join(folder, "epistyle.config.yaml"),
    `mounts:\n  - folder: public\n    headers: [{ files: "**", set: { X-Round: "${round}" } }]\n`,
  );
}

function renewCertificate(folder, round) {
  const [cert, key] = ["one.pem", "one.key"].map((name) => join(folder, name));
  const made = [
    "-nodes",
    "-days",
    "2",
    "-subj",
    `/CN=round-${round}.larkholm.example`,
    "-keyout",
    `${key}.new`,
    "-out",
    `${cert}.new`,
  ];
  execFileSync(
    "openssl",
    ["req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", ...made],
    { stdio: "ignore" },
  );
  renameSync(`${key}.new`, key);
  renameSync(`${cert}.new`, cert);
}

async function serve(commands, folder, args) {
  const child = spawn(process.execPath, [CLI, "serve", ...args], {
    cwd: folder,
    env: { ...process.env, NO_COLOR: "1" },
    stdio: ["ignore", "pipe", "pipe"],
  });
  const command = { child, said: "" };
  commands.push(command);
  for (const stream of [child.stdout, child.stderr]) stream.on("data", (chunk) => (command.said += chunk));
  await until(() => command.said.includes("Listening on"), "a server");
  return command;
}

async function until(holds, what, withinMs = 60_000) {
  for (const end = Date.now() + withinMs; Date.now() < end; await wait(100)) if (await holds()) return;
  throw new Error(`waited in vain for ${what}`);
}

const childrenOf = (pid) => {
  try {
    return execFileSync("pgrep", ["-P", String(pid)], { encoding: "utf8" })
      .split("\n")
      .filter(Boolean)
      .map(Number);
  } catch {
    return [];
  }
};

/** What a command and its workers hold: descriptors, sockets among them, and resident memory. */
async function measure(pid) {
  const held = { descriptors: 0, sockets: 0, bytes: 0 };
  for (const one of [pid, ...childrenOf(pid)]) {
    try {
      const names = readdirSync(`/proc/${one}/fd`);
      held.descriptors += names.length;
      for (const name of names) if (isSocket(`/proc/${one}/fd/${name}`)) held.sockets++;
      held.bytes +=
        1024 * Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${one}/status`, "utf8"))?.[1] ?? 0);
    } catch {
      // It has gone meanwhile.
    }
  }
  return held;
}

function isSocket(path) {
  try {
    return readlinkSync(path).startsWith("socket:");
  } catch {
    return false;
  }
}

const freePort = () =>
  new Promise((done) => {
    const probe = createServer().listen(0, "127.0.0.1", () => {
      const { port } = probe.address();
      probe.close(() => done(port));
    });
  });

async function ask(url) {
  const answer = await fetch(url);
  await answer.text();
  if (answer.status !== 200) throw new Error(`${url} answered ${answer.status}`);
}

const askTls = (port, path) =>
  new Promise((done, failed) => {
    const sent = request({ ...TLS, port, path, agent: false }, (answer) => {
      let text = "";
      answer
        .on("data", (chunk) => (text += chunk))
        .on("end", () => done(text))
        .on("error", failed);
    });
    sent.on("error", failed).end();
  });

const askStream = (port, path) =>
  new Promise((done, failed) => {
    const session = connectHttp2(`https://127.0.0.1:${port}`, TLS).on("error", failed);
    let bytes = 0;
    const stream = session.request({ ":path": path }).on("error", failed);
    stream.on("data", (chunk) => (bytes += chunk.length));
    stream.on("end", () => {
      session.close();
      done(bytes);
    });
  });

/** An HTTP/2 client that resets its connection in the middle of what it asked for. */
const resetSoon = (port, afterMs) =>
  new Promise((done) => {
    const socket = connect(port, "127.0.0.1").on("error", done).on("close", done);
    const secure = connectTls({ socket, ALPNProtocols: ["h2"], rejectUnauthorized: false }).on(
      "error",
      () => {},
    );
    const session = connectHttp2("https://localhost", { createConnection: () => secure }).on(
      "error",
      () => {},
    );
    for (let stream = 0; stream < 20; stream++)
      session.request({ ":path": "/large.bin" }).on("error", () => {});
    session.on("connect", () => setTimeout(() => socket.resetAndDestroy(), afterMs));
    setTimeout(() => socket.destroy(), 3000).unref();
  });

/** One that never shakes hands. It is not waited for. */
const leaveSilent = (port) =>
  new Promise((done) => {
    const socket = connect(port, "127.0.0.1", () => done()).on("error", done);
    socket.unref();
  });
