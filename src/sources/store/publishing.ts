import { randomUUID } from "node:crypto";
import { hostname } from "node:os";
import { setTimeout as wait } from "node:timers/promises";
import { type ObjectStore, StoreError } from "./object-store.js";
import { toBody } from "./pointer.js";
import { TIMES } from "./times.js";

/** Whoever changes a store's releases says so here, again and again: one at a time does. */
const TURN = "publishing.json";
const READ = { atMost: 64 * 1024, deadlineMs: 30_000 };

/** The turn of one who changes a store's releases. */
export interface Turn {
  /** A word that nobody else has. */
  readonly writer: string;
  /** Rejects with a StoreError when somebody else took the turn, because nothing was heard of this one for too long. */
  check(): Promise<void>;
  /** Lets the next one go. Never rejects. */
  end(): Promise<void>;
}

/** Told while another publisher is waited for. */
export type OnWaiting = (text: string) => void;

/**
 * Takes the turn to change a store's releases. Some stores have no step that writes only where nothing is, so the turn is taken by
 * writing a word of one's own, waiting until every other write that could be under way is done, and looking whose word is there
 * (Fischer's algorithm). What it protects is safe without it, too: files and seals have names by their content, and the pointer is one
 * object, so that of two publishers one comes after the other. Rejects with a StoreError where another one is at work.
 */
export async function takeTurn(store: ObjectStore, onWaiting: OnWaiting = () => {}): Promise<Turn> {
  const writer = randomUUID();
  await waitForOthers(store, onWaiting);
  const started = performance.now();
  if (store.create !== undefined) {
    if (!(await store.create(TURN, say(writer, 0)))) {
      // What is there belongs to one who is gone, or who came in this moment.
      if (await isAlive(store)) throw busy(store);
      await store.write(TURN, toBody(say(writer, 0)));
      await wait(200);
    }
  } else {
    await store.write(TURN, toBody(say(writer, 0)));
    const tookMs = performance.now() - started;
    // One who was slow may have overwritten the word of another, who notices with his next beat.
    await wait(store.settlesMs + (tookMs > store.settlesMs / 2 ? tookMs + 2 * TIMES.beat : 0));
  }
  if ((await readTurn(store))?.writer !== writer) throw busy(store);
  return keepTurn(store, writer);
}

function keepTurn(store: ObjectStore, writer: string): Turn {
  let beat = 0;
  let lost: StoreError | undefined;
  let lastMs = performance.now();
  let beating: Promise<void> = Promise.resolve();
  const check = async (): Promise<void> => {
    if (lost !== undefined) throw lost;
    if ((await readTurn(store))?.writer === writer) return;
    lost = busy(store);
    throw lost;
  };
  const timer = setInterval(() => {
    beating = beating.then(async () => {
      try {
        await check();
        await store.write(TURN, toBody(say(writer, ++beat)));
        lastMs = performance.now();
      } catch {
        // A store that fails is met by the work itself.
      }
    });
  }, TIMES.beat);
  timer.unref();
  return {
    writer,
    async check() {
      await beating;
      await check();
      // A process that slept has to look whether somebody took it for gone.
      if (performance.now() - lastMs > TIMES.gone / 2) {
        await store.write(TURN, toBody(say(writer, ++beat)));
        await wait(store.settlesMs);
        await check();
      }
    },
    async end() {
      clearInterval(timer);
      await beating;
      try {
        await check();
        await store.remove(TURN);
      } catch {
        // Another one has it, or finds that nobody says anything.
      }
    },
  };
}

interface Said {
  readonly writer: string;
  readonly host: string;
  readonly pid: number;
  readonly beat: number;
}

function say(writer: string, beat: number): Uint8Array {
  const said: Said = { writer, host: hostname(), pid: process.pid, beat };
  return Buffer.from(`${JSON.stringify(said)}\n`);
}

async function readTurn(store: ObjectStore): Promise<Said | undefined> {
  const bytes = await store.read(TURN, READ);
  if (bytes === undefined) return undefined;
  try {
    const said = JSON.parse(Buffer.from(bytes).toString("utf8")) as Said;
    return typeof said?.writer === "string" ? said : EMPTY;
  } catch {
    return EMPTY;
  }
}

/** What something else has written: nobody's, and gone when it stays as it is. */
const EMPTY: Said = { writer: "", host: "", pid: 0, beat: 0 };

// Resolves when nobody is at work; rejects as soon as somebody is seen to be.
async function waitForOthers(store: ObjectStore, onWaiting: OnWaiting): Promise<void> {
  const first = await readTurn(store);
  if (first === undefined || isGoneHere(first)) return;
  onWaiting(
    `Another publish was begun on ${first.host} (process ${first.pid}); waiting up to ${TIMES.gone / 1000} seconds to see whether it still runs …`,
  );
  if (await isAlive(store)) throw busy(store);
}

async function isAlive(store: ObjectStore): Promise<boolean> {
  const first = await readTurn(store);
  if (first === undefined || isGoneHere(first)) return false;
  for (let waitedMs = 0; waitedMs < TIMES.gone; waitedMs += TIMES.gone / 30) {
    await wait(TIMES.gone / 30);
    const now = await readTurn(store);
    if (now === undefined) return false;
    if (now.writer !== first.writer || now.beat !== first.beat) return true;
  }
  return false;
}

// Of this machine it can be told at once.
function isGoneHere({ host, pid }: Said): boolean {
  if (host !== hostname() || !(pid > 0)) return false;
  try {
    process.kill(pid, 0);
    return false;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === "ESRCH";
  }
}

const busy = (store: ObjectStore): StoreError =>
  new StoreError(
    `${store.name}: another publisher is at work, so this one stops; nothing was mixed. Try again when it is done.`,
    { isTemporary: false },
  );
