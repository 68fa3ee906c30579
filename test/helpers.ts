import { execFileSync } from "node:child_process";
import { chmod, mkdir, mkdtemp, rm, symlink, writeFile } from "node:fs/promises";
import { type AddressInfo, createServer } from "node:net";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { isMainThread } from "node:worker_threads";
import { readPlan } from "../src/adapters/in-process.js";
import type { Answer } from "../src/core/answer/plan.js";
import {
  type FileSource,
  memorySource,
  type OpenedDirectory,
  type Site,
  type SiteConfig,
} from "../src/index.js";
import { openSite } from "./counting-source.js";

/** Runs as a user without rights, where this process is root. */
export async function asNobody<Outcome>(run: () => Promise<Outcome>): Promise<Outcome> {
  const isRoot = process.getuid?.() === 0;
  if (isRoot) process.seteuid!(65534);
  return run().finally(() => isRoot && process.seteuid!(0));
}

/** Runs as if on another platform, where the system tells less. */
export async function onPlatform<Outcome>(
  platform: NodeJS.Platform,
  run: () => Promise<Outcome>,
): Promise<Outcome> {
  const own = Object.getOwnPropertyDescriptor(process, "platform")!;
  Object.defineProperty(process, "platform", { ...own, value: platform });
  return run().finally(() => Object.defineProperty(process, "platform", own));
}

/** A worker thread cannot change the process's user; where that is not root, there is no need to. */
export const canBeNobody = isMainThread || process.getuid?.() !== 0;

/** The processor's time that some work takes, in seconds: what else the machine does counts for nothing. For bounds that are far away. */
export function processorSeconds(work: () => unknown): number {
  const before = process.cpuUsage();
  work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1e6;
}

export interface Tree {
  readonly root: string;
  /** Takes all rights on files and folders away, from their owner too, until they are removed. */
  forbid(...paths: string[]): Promise<void>;
  remove(): Promise<void>;
}

/** Makes a folder of files in the system's temporary folder; a value `{ link }` makes a symbolic link. */
export async function makeTree(tree: Record<string, string | Uint8Array | { link: string }>): Promise<Tree> {
  const root = await mkdtemp(join(tmpdir(), "epistyle-test-"));
  for (const [path, content] of Object.entries(tree)) {
    const full = join(root, path);
    await mkdir(dirname(full), { recursive: true });
    if (typeof content === "object" && "link" in content) await symlink(content.link, full);
    else await writeFile(full, content);
  }
  await chmod(root, 0o755);
  const forbidden: string[] = [];
  return {
    root,
    async forbid(...paths) {
      for (const path of paths) await chmod(join(root, path), 0o000);
      forbidden.push(...paths);
    },
    async remove() {
      for (const path of forbidden) await chmod(join(root, path), 0o755);
      await rm(root, { recursive: true, force: true });
    },
  };
}

/** A source whose directories are changed in some of what they tell. */
export function changeDirectories(
  source: FileSource,
  change: (path: string, own: OpenedDirectory) => Partial<OpenedDirectory>,
): FileSource {
  return {
    ...source,
    async open(path) {
      const found = await source.open(path);
      return found.kind === "directory"
        ? { ...found, directory: { ...found.directory, ...change(path, found.directory) } }
        : found;
    },
  };
}

/** What a source's directory of a path tells, and lets it go; undefined where there is none. */
export async function readDirectory<Outcome>(
  source: FileSource,
  path: string,
  read: (directory: OpenedDirectory) => Outcome,
): Promise<Awaited<Outcome> | undefined> {
  const found = await source.open(path);
  if (found.kind === "file") found.file.close();
  if (found.kind !== "directory") return undefined;
  try {
    return await read(found.directory);
  } finally {
    found.directory.close();
  }
}

/** A site with one mount in memory. */
export function openMemory(
  tree: Record<string, string>,
  mount: Omit<SiteConfig["mounts"][number], "source" | "folder"> = {},
): Promise<Site> {
  return openSite({ mounts: [{ source: memorySource(tree), ...mount }] });
}

export function fieldsOf(answer: Answer): Record<string, string> {
  const fields: Record<string, string> = {};
  if (answer.kind === "pass") return fields;
  for (const { name, value } of answer.fields) fields[name.toLowerCase()] = value;
  return fields;
}

export interface Asked {
  readonly summary: string;
  readonly fields: Record<string, string>;
  readonly body: string;
  readonly answer: Answer;
}

/** Asks `GET /path`; the summary reads `200 file`, `301 location`, `404 reason-code` or `pass reason-code`. */
export async function ask(
  site: Site,
  request: string,
  headers: Record<string, string> = {},
  more: { mayPass?: boolean; strippedPrefix?: string } = {},
): Promise<Asked> {
  const [method = "GET", target = "/"] = request.split(/ (.*)/s);
  const answer = await site.respond({ method, target, headers, ...more });
  const fields = fieldsOf(answer);
  if (answer.kind === "pass") return { summary: `pass ${answer.reason.code}`, fields, body: "", answer };
  const body = new TextDecoder().decode(await readPlan(answer));
  const about = answer.file ?? fields.location ?? answer.reason.code;
  return { summary: `${answer.status} ${about}`, fields, body, answer };
}

/** Makes a certificate with its key, as PEM files: `one.pem` and `one.key` for the path `one`. */
export function makeCertificate(path: string, host: string): void {
  const key = [
    "-newkey",
    "ec",
    "-pkeyopt",
    "ec_paramgen_curve:prime256v1",
    "-nodes",
    "-keyout",
    `${path}.key`,
  ];
  const made = ["-days", "2", "-subj", `/CN=${host}`, "-out", `${path}.pem`];
  execFileSync("openssl", ["req", "-x509", ...key, ...made], { stdio: "ignore" });
}

/** A port of this machine that nobody listens on at the moment. */
export const freePort = (): Promise<number> =>
  new Promise((done) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as AddressInfo;
      server.close(() => done(port));
    });
  });
