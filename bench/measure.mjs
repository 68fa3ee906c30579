// Load on loopback, bounded in time: requests a second of many small answers, and the pace of one large one.
import { execFile, spawn } from "node:child_process";
import { readFileSync } from "node:fs";
import { connect } from "node:net";
import { join } from "node:path";
import { promisify } from "node:util";

const execute = promisify(execFile);

/** Starts a server program and waits until it listens. */
export async function startProgram(program, ...args) {
  const child = spawn(process.execPath, [program, ...args], { stdio: ["ignore", "pipe", "inherit"] });
  await new Promise((resolve, reject) => {
    child.stdout.once("data", resolve);
    child.once("exit", (code) => reject(new Error(`${program} ended with status ${code}`)));
  });
  child.removeAllListeners("exit");
  return { pid: child.pid, stop: () => child.kill() };
}

/**
 * Requests a second over `connections` connections, from Debian's wrk, and the processor time that the server `pid` took for one,
 * in microseconds. Throws when an answer has another class of status. `files` asks for many, evenly: [beginning of paths, count].
 */
export async function measureRate(
  url,
  { pid, seconds, connections = 32, headers = {}, failing = false, files },
) {
  const args = ["-t1", `-c${connections}`, `-d${Math.ceil(seconds) + 10}s`];
  for (const [name, value] of Object.entries(headers)) args.push("-H", `${name}: ${value}`);
  if (files !== undefined) args.push("-s", join(import.meta.dirname, "in-turn.lua"));
  const before = readProcessorTime(pid);
  const load = [...args, url, ...(files === undefined ? [] : ["--", ...files.map(String)])];
  const stdout = await stopAfter(seconds, "wrk", load);
  const taken = readProcessorTime(pid) - before;
  const counted = /(\d+) requests in/.exec(stdout);
  // On a busy machine it may be told to end before it can count.
  if (counted === null && seconds < 10)
    return measureRate(url, { pid, seconds: seconds + 2, connections, headers, failing, files });
  if (/Non-2xx or 3xx/.test(stdout) !== failing)
    throw new Error(`${url} answered with another status:\n${stdout}`);
  const requests = Number(counted[1]);
  return { rate: Number(/Requests\/sec:\s+([\d.]+)/.exec(stdout)[1]), microseconds: taken / requests };
}

// It takes whole seconds alone, and ends with what it has counted when it is told to.
function stopAfter(seconds, command, args) {
  const child = spawn(command, args, { stdio: ["ignore", "pipe", "inherit"] });
  const timer = setTimeout(() => child.kill("SIGINT"), seconds * 1000);
  let stdout = "";
  child.stdout.on("data", (chunk) => {
    stdout += chunk;
  });
  return new Promise((resolve, reject) => {
    child.on("error", reject);
    child.on("close", () => {
      clearTimeout(timer);
      resolve(stdout);
    });
  });
}

/** Processor time that a process has used so far, in microseconds: its own and the system's for it. */
function readProcessorTime(pid) {
  const fields = readFileSync(`/proc/${pid}/stat`, "utf8").split(") ")[1].split(" ");
  // Clock ticks of 10 ms: utime and stime.
  return (Number(fields[11]) + Number(fields[12])) * 10_000;
}

/** Milliseconds of answers under a steady load: { p50, p99, worst }. */
export async function measureSteady(port, path, rate, seconds) {
  const program = join(import.meta.dirname, "steady.mjs");
  const { stdout } = await execute(process.execPath, [program, port, path, rate, seconds].map(String));
  return JSON.parse(stdout);
}

/** Clients that ask for a file and read nothing; gives a function that lets them go. */
export async function holdClients(port, path, count) {
  const sockets = await Promise.all(
    Array.from({ length: count }, () => {
      const socket = connect({ port, host: "127.0.0.1" }).on("error", () => {});
      socket.pause();
      return new Promise((done) =>
        socket.once("connect", () =>
          socket.write(`GET ${path} HTTP/1.1\r\nHost: a\r\n\r\n`, () => done(socket)),
        ),
      );
    }),
  );
  return () => {
    for (const socket of sockets) socket.destroy();
  };
}

/** What a process has in memory now, in MB (resident). */
export function readMemory(pid) {
  return Number(/VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))[1]) / 1000;
}

/** Megabytes a second of one answer to each of `clients` connections, read as fast as it comes. */
export async function measurePace(port, path, clients = 1) {
  const started = performance.now();
  const bytes = await Promise.all(Array.from({ length: clients }, () => download(port, path)));
  return bytes.reduce((sum, n) => sum + n, 0) / 1e6 / ((performance.now() - started) / 1000);
}

function download(port, path) {
  return new Promise((resolve, reject) => {
    let bytes = 0;
    const buffer = Buffer.alloc(1 << 20);
    const count = (length) => {
      bytes += length;
      return true;
    };
    const onread = { buffer, callback: count };
    const socket = connect({ port, host: "127.0.0.1", onread }, () => {
      socket.write(`GET ${path} HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n`);
    });
    socket.on("error", reject);
    socket.on("close", () => resolve(bytes));
  });
}

/** The most memory a process has used so far, in MB (resident). */
export function readPeakMemory(pid) {
  return Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))[1]) / 1000;
}

export function median(values) {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)];
}
