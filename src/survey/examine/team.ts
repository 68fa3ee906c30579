import { existsSync } from "node:fs";
import { availableParallelism } from "node:os";
import { fileURLToPath } from "node:url";
import { isDeepStrictEqual } from "node:util";
import { Worker } from "node:worker_threads";
import type { SiteConfig } from "../../config/config-types.js";
import type { Finding } from "../finding.js";
import type { SurveyContext, SurveyedFile } from "../survey-context.js";
import { examine, type Wanted } from "./examine.js";
import type { FileNotes } from "./notes.js";
import { type PackedNotes, unpackNotes } from "./pack.js";

/** How much is read before other threads are worth their start, in bytes. */
const WORTH_THREADS = 32 * 1024 * 1024;
const THREADS_AT_MOST = 4;
/** A batch ends with the file that brings it to this many bytes, or to this many files. */
const BATCH = { bytes: 1024 * 1024, files: 64 };
/** How many files are read between two turns of the event loop. */
const AT_A_TIME = 16;
/** What a thread may use, in MiB: more, and this one reads what it had. */
const LIMITS = { maxYoungGenerationSizeMb: 16, maxOldGenerationSizeMb: 512 };

/** What a thread is started with. */
export interface WorkerStart {
  readonly config: SiteConfig;
  readonly wanted: Wanted;
}

/** A file, with the number of its mount. */
export type FileToExamine = Omit<SurveyedFile, "mount"> & { readonly mount: number };

/** What came of a file in another thread. */
export interface Examined {
  readonly notes: PackedNotes | undefined;
  readonly findings: readonly Finding[];
}

/** Examines files in their order, in several threads where that is worth it. Gives each with its notes. */
export async function* examineAll(
  context: SurveyContext,
  files: readonly SurveyedFile[],
  { wanted, config }: { readonly wanted: Wanted; readonly config: SiteConfig },
): AsyncGenerator<[SurveyedFile, FileNotes | undefined]> {
  const team = openTeam(files, { wanted, config });
  if (team === undefined) yield* examineHere(context, files, wanted);
  else
    try {
      yield* examineThere(context, files, { wanted, team });
    } finally {
      team.close();
    }
}

async function* examineHere(
  context: SurveyContext,
  files: readonly SurveyedFile[],
  wanted: Wanted,
): AsyncGenerator<[SurveyedFile, FileNotes | undefined]> {
  for (const [index, file] of files.entries()) {
    if ((index + 1) % AT_A_TIME === 0) await context.pause();
    yield [file, await examine(context, file, wanted)];
  }
}

async function* examineThere(
  context: SurveyContext,
  files: readonly SurveyedFile[],
  { wanted, team }: { readonly wanted: Wanted; readonly team: Team },
): AsyncGenerator<[SurveyedFile, FileNotes | undefined]> {
  const mounts = new Map(context.compiled.mounts.values().map((mount, index) => [mount, index]));
  const waiting: { readonly batch: readonly SurveyedFile[]; readonly examined: Promise<Batch> }[] = [];
  const batches = makeBatches(files);
  for (;;) {
    while (waiting.length < team.size * 2) {
      const { value: batch, done } = batches.next();
      if (done) break;
      const sent = batch.map(({ mount, ...file }) => ({ ...file, mount: mounts.get(mount)! }));
      waiting.push({ batch, examined: team.examine(sent) });
    }
    const next = waiting.shift();
    if (next === undefined) return;
    const examined = await next.examined;
    // A thread that ended left it undone.
    if (examined === undefined) yield* examineHere(context, next.batch, wanted);
    else
      for (const [index, { notes, findings }] of examined.entries()) {
        for (const { code, ...finding } of findings) context.reportAt(code, finding);
        yield [next.batch[index]!, notes === undefined ? undefined : unpackNotes(notes)];
      }
  }
}

function* makeBatches(files: readonly SurveyedFile[]): Generator<readonly SurveyedFile[], undefined> {
  let batch: SurveyedFile[] = [];
  let bytes = 0;
  for (const file of files) {
    batch.push(file);
    bytes += file.sizeBytes;
    if (bytes < BATCH.bytes && batch.length < BATCH.files) continue;
    yield batch;
    batch = [];
    bytes = 0;
  }
  if (batch.length > 0) yield batch;
}

/** Undefined where the thread ended before it was done. */
type Batch = readonly Examined[] | undefined;

/** Threads that examine files. */
interface Team {
  readonly size: number;
  examine(batch: readonly FileToExamine[]): Promise<Batch>;
  close(): void;
}

function openTeam(files: readonly SurveyedFile[], { wanted, config }: WorkerStart): Team | undefined {
  const size = Math.min(THREADS_AT_MOST, availableParallelism());
  const module = findModule();
  const sent = toData(config);
  if (size < 2 || module === undefined || sent === undefined || countBytes(files) < WORTH_THREADS)
    return undefined;
  const members = Array.from({ length: size }, () => new Member(module, { config: sent, wanted }));
  return {
    size,
    examine: (batch) => members.reduce((a, b) => (b.asked < a.asked ? b : a)).examine(batch),
    close: () => {
      for (const member of members) member.close();
    },
  };
}

// Beside this module, or where the package has it. None where the sources themselves run.
function findModule(): URL | undefined {
  return ["./worker.js", "../survey/examine/worker.js"]
    .map((path) => new URL(path, import.meta.url))
    .find((url) => url.protocol === "file:" && existsSync(fileURLToPath(url)));
}

// Only what is data can go to another thread: no source of the developer's own, and no function.
function toData({ base, ...config }: SiteConfig): SiteConfig | undefined {
  if (config.mounts.some(({ folder }) => folder === undefined)) return undefined;
  const data = JSON.parse(JSON.stringify(config)) as SiteConfig;
  return isDeepStrictEqual(data, config)
    ? { ...data, ...(base !== undefined && { base: String(base) }) }
    : undefined;
}

const countBytes = (files: readonly SurveyedFile[]): number =>
  files.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0);

/** One thread: it answers in the order in which it was asked. */
class Member {
  readonly #worker: Worker;
  readonly #waiting: ((batch: Batch) => void)[] = [];
  #hasEnded = false;

  constructor(module: URL, start: WorkerStart) {
    this.#worker = new Worker(module, { workerData: start, resourceLimits: LIMITS });
    this.#worker.on("message", (examined: readonly Examined[]) => this.#waiting.shift()?.(examined));
    this.#worker.on("error", () => this.#end());
    this.#worker.on("exit", () => this.#end());
  }

  get asked(): number {
    return this.#hasEnded ? Number.POSITIVE_INFINITY : this.#waiting.length;
  }

  examine(batch: readonly FileToExamine[]): Promise<Batch> {
    if (this.#hasEnded) return Promise.resolve(undefined);
    return new Promise((resolve) => {
      this.#waiting.push(resolve);
      this.#worker.postMessage(batch);
    });
  }

  #end(): void {
    this.#hasEnded = true;
    for (const resolve of this.#waiting.splice(0)) resolve(undefined);
  }

  close(): void {
    void this.#worker.terminate();
  }
}
