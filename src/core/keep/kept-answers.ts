import type { BodyPlan, Pass, ResponsePlan } from "../answer/plan.js";
import type { StoreOptions } from "../memory/store.js";
import type { Look } from "../source.js";
import { RecentKeys } from "./recent-keys.js";

/** The request fields that an answer may depend on, in lower case. An answer that read another one is not kept. */
export const READ_FIELDS = [
  "accept",
  "accept-encoding",
  "accept-language",
  "access-control-request-method",
  "cache-control",
  "if-match",
  "if-modified-since",
  "if-none-match",
  "if-range",
  "if-unmodified-since",
  "origin",
  "range",
  "sec-fetch-mode",
  "want-content-digest",
  "want-repr-digest",
] as const;

/** The values of READ_FIELDS in a request, in that order; undefined for a field that it has not. */
export type FieldValues = readonly (string | undefined)[];

/** What a request asks for, but for its fields. */
export interface RequestKey {
  readonly method: "GET" | "HEAD";
  readonly target: string;
  readonly strippedPrefix: string | undefined;
  readonly mayPass: boolean;
  readonly isSecure: boolean;
}

/** An answer whose bytes are at hand: it can be sent at once, and again. */
export type ReadyAnswer = Pass | ReadyPlan;

export interface ReadyPlan extends ResponsePlan {
  readonly body: Exclude<BodyPlan, { kind: "file" }>;
}

/** What a ready answer depends on: fields of the request, and looks at the disk. */
export interface Dependencies {
  readonly reads: readonly (readonly [field: number, value: string | undefined])[];
  readonly looks: readonly Look[];
  /** Bytes of the body that are kept for this answer alone. */
  readonly ownBytes: number;
}

/**
 * A class, so that all have one hidden class: object literals with spread parts had one each, and every look at them took the
 * engine's slow way.
 */
class Entry {
  readonly strippedPrefix: string | undefined;
  readonly answer: ReadyAnswer;
  /** The fields that were read, by their place in READ_FIELDS, and the values they had. */
  readonly fields: readonly number[];
  readonly values: FieldValues;
  readonly looks: readonly Look[];
  readonly cost: number;
  wasUsed = false;
  lastUsedMs: number;

  constructor(key: RequestKey, answer: ReadyAnswer, { reads, looks, ownBytes }: Dependencies, nowMs: number) {
    this.strippedPrefix = key.strippedPrefix;
    this.answer = answer;
    this.fields = reads.map(([field]) => field);
    this.values = reads.map(([, value]) => value);
    this.looks = looks;
    this.cost = ENTRY_BYTES + ownBytes + 2 * key.target.length;
    this.lastUsedMs = nowMs;
  }

  hasRead(values: FieldValues): boolean {
    const { fields } = this;
    for (let i = 0; i < fields.length; i++) if (values[fields[i]!] !== this.values[i]) return false;
    return true;
  }

  isLike({ strippedPrefix, fields, values }: Entry): boolean {
    return (
      this.strippedPrefix === strippedPrefix &&
      this.fields.length === fields.length &&
      this.fields.every((field, i) => field === fields[i] && this.values[i] === values[i])
    );
  }
}

/** What a kept answer costs besides its body and its target, in bytes. */
const ENTRY_BYTES = 1024;
/** How many answers are kept for one target: as codings and clients differ. */
const VARIANTS = 8;
/** A longer target is no address that many ask for, in UTF-16 code units. */
const TARGET_UP_TO = 1024;
/** What is in no memory of the system any more is looked at off the main thread, in milliseconds. */
const COLD_MS = 10_000;
/**
 * Looks that take longer than this may show a slow disk, in milliseconds, or that another process had the processor. So many of
 * them without as many quick ones in between do show one: then nothing is answered from here for some time, in milliseconds.
 */
const SLOW_LOOKS_MS = 5;
const SLOW_AT_MOST = 8;
const QUICK_FOR_EACH = 16;
const SUSPENDED_MS = 5000;

/**
 * Answers that were given before, each with what it depended on. One is given again when the fields that were read for it are
 * the same, and each look at the disk that led to it still sees the same: so it is what the full way would answer, in less time.
 */
export class KeptAnswers {
  readonly options: StoreOptions = {
    name: "answers kept with their bytes",
    bound: 64 * 1024 * 1024,
    unit: "bytes",
    proof: "each request looks at each name that led to the answer: the same file, there",
  };
  // One map for each of the few other things that tell requests apart: a target is looked up as it is.
  readonly #entries: Map<string, Entry[]>[] = Array.from({ length: 8 }, () => new Map());
  readonly #recent = new RecentKeys();
  #size = 0;
  #cost = 0;
  #slowness = 0;
  #suspendedUntilMs = 0;
  readonly #clock: () => number;

  /** `clock` tells how time goes by, in milliseconds and parts of them. */
  constructor(clock: () => number) {
    this.#clock = clock;
  }

  get size(): number {
    return this.#size;
  }

  get cost(): number {
    return this.#cost;
  }

  /** The answer to a request; undefined where none is kept, or what it was made from changed. Waits for nothing but the looks. */
  recall(key: RequestKey, values: FieldValues, nowMs: number): ReadyAnswer | undefined {
    const variants = this.#entries[slotOf(key)]!.get(key.target);
    if (variants === undefined) return undefined;
    for (const entry of variants) {
      if (entry.strippedPrefix !== key.strippedPrefix || !entry.hasRead(values)) continue;
      if (nowMs - entry.lastUsedMs > COLD_MS || nowMs < this.#suspendedUntilMs) return undefined;
      if (!this.#holds(entry, nowMs)) {
        this.#remove(key, entry);
        return undefined;
      }
      entry.wasUsed = true;
      entry.lastUsedMs = nowMs;
      return entry.answer;
    }
    return undefined;
  }

  /** True when an answer to this is worth to be kept: it was asked for before, not long ago, and can be given from here. */
  isWanted({ target }: RequestKey, nowMs: number): boolean {
    return nowMs >= this.#suspendedUntilMs && target.length <= TARGET_UP_TO && this.#recent.add(target);
  }

  /** Keeps an answer; what has not been used since it was last looked at makes room. */
  keep(key: RequestKey, answer: ReadyAnswer, dependencies: Dependencies, nowMs: number): void {
    const entry = new Entry(key, answer, dependencies, nowMs);
    const map = this.#entries[slotOf(key)]!;
    const others = (map.get(key.target) ?? []).filter((one) => !one.isLike(entry)).slice(1 - VARIANTS);
    for (const one of map.get(key.target) ?? []) if (!others.includes(one)) this.#count(one, -1);
    map.delete(key.target);
    map.set(key.target, [...others, entry]);
    this.#count(entry, 1);
    this.#makeRoom();
  }

  #holds({ looks }: Entry, nowMs: number): boolean {
    if (looks.length === 0) return true;
    const started = this.#clock();
    let holds = true;
    for (let i = 0; holds && i < looks.length; i++) holds = looks[i]!.holds();
    this.#weigh(this.#clock() - started, nowMs);
    return holds;
  }

  #weigh(tookMs: number, nowMs: number): void {
    if (tookMs <= SLOW_LOOKS_MS) {
      if (this.#slowness > 0) this.#slowness--;
      return;
    }
    this.#slowness += QUICK_FOR_EACH;
    if (this.#slowness < SLOW_AT_MOST * QUICK_FOR_EACH) return;
    this.#slowness = 0;
    this.#suspendedUntilMs = nowMs + SUSPENDED_MS;
  }

  #remove(key: RequestKey, entry: Entry): void {
    const map = this.#entries[slotOf(key)]!;
    const others = map.get(key.target)!.filter((one) => one !== entry);
    if (others.length === 0) map.delete(key.target);
    else map.set(key.target, others);
    this.#count(entry, -1);
  }

  // The oldest goes, unless it was used meanwhile: then it is counted among the youngest.
  #makeRoom(): void {
    for (let slot = 0; this.#cost > this.options.bound; slot = (slot + 1) % this.#entries.length) {
      const map = this.#entries[slot]!;
      const [first] = map;
      if (first === undefined) continue;
      const [target, entries] = first;
      map.delete(target);
      const used = entries.filter(({ wasUsed }) => wasUsed);
      for (const one of entries) {
        if (one.wasUsed) one.wasUsed = false;
        else this.#count(one, -1);
      }
      if (used.length > 0) map.set(target, used);
    }
  }

  #count({ cost }: Entry, sign: 1 | -1): void {
    this.#size += sign;
    this.#cost += sign * cost;
  }
}

function slotOf({ method, mayPass, isSecure }: RequestKey): number {
  return (method === "GET" ? 0 : 1) + (mayPass ? 2 : 0) + (isSecure ? 4 : 0);
}
