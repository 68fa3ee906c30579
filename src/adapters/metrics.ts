import { readdirSync } from "node:fs";
import type { MemoryMetric } from "../core/memory/memory.js";
import type { Site, StoreCounts } from "../site/site.js";
import type { ResponseRecord } from "./response-record.js";

/** The media type of the text (OpenMetrics 1.0 §"Protocol negotiation"). */
export const METRICS_TYPE = "application/openmetrics-text; version=1.0.0; charset=utf-8";

/** Upper bounds of the times that are counted, in seconds. */
const BOUNDS = [0.001, 0.0025, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30];

/** What one process counted, as plain data: several are told as one. */
export interface MetricsSnapshot {
  readonly answers: readonly (readonly [labels: string, count: number])[];
  readonly cuts: readonly (readonly [labels: string, count: number])[];
  /** How many took so long, by the bounds. */
  readonly times: readonly number[];
  readonly seconds: number;
  readonly bytes: number;
  readonly kept: readonly MemoryMetric[];
  /** Undefined without a release store. */
  readonly store: StoreMetrics | undefined;
  readonly residentBytes: number;
  /** Undefined where the platform does not tell. */
  readonly descriptors: number | undefined;
  /** Seconds since 1970. */
  readonly startedAt: number;
}

/** What metrics report of a release store. */
interface StoreMetrics {
  readonly counts: StoreCounts;
  readonly kept: { readonly memory: number; readonly disk: number };
  readonly release: number;
  readonly isAway: boolean;
}

/** What a site tells of itself. */
export type MeasuredSite = Pick<Site, "memory" | "store">;

/** Counts what a server answered, for whoever watches it. What it holds does not grow with the requests. */
export class Metrics {
  /** By status and kind: at most a few hundred, whatever is asked. */
  readonly #answers = new Map<string, number>();
  readonly #cuts = new Map<string, number>();
  readonly #times = new Array<number>(BOUNDS.length + 1).fill(0);
  readonly #startedAt = Date.now() / 1000;
  #seconds = 0;
  #bytes = 0;

  /** Counts an answer that was delivered, or cut off. */
  count(record: ResponseRecord): void {
    const { delivery, milliseconds } = record;
    add(this.#answers, `status="${delivery.status}",kind="${kindOf(record)}"`, 1);
    if (delivery.cutOff !== undefined) add(this.#cuts, `cause="${delivery.cutOff}"`, 1);
    this.#bytes += delivery.bytes;
    const seconds = milliseconds / 1000;
    this.#seconds += seconds;
    let at = 0;
    while (at < BOUNDS.length && seconds > BOUNDS[at]!) at++;
    this.#times[at]!++;
  }

  /** The metrics as they are now, with what the site keeps in memory, and what it read of its release store. */
  snapshot({ memory, store }: MeasuredSite): MetricsSnapshot {
    return {
      answers: [...this.#answers],
      cuts: [...this.#cuts],
      times: [...this.#times],
      seconds: this.#seconds,
      bytes: this.#bytes,
      kept: memory.metrics(),
      store: store && {
        counts: store.counts,
        kept: store.kept,
        release: store.release.number,
        isAway: store.failure !== undefined,
      },
      residentBytes: process.memoryUsage.rss(),
      descriptors: countDescriptors(),
      startedAt: this.#startedAt,
    };
  }
}

/** The metrics of a process, or of several together, as OpenMetrics text. */
export function formatMetrics(snapshots: readonly MetricsSnapshot[]): string {
  const total = (read: (one: MetricsSnapshot) => number): number =>
    snapshots.reduce((sum, one) => sum + read(one), 0);
  const byLabels = (name: string, read: (one: MetricsSnapshot) => MetricsSnapshot["answers"]): string[] => {
    const sums = new Map<string, number>();
    for (const one of snapshots) for (const [labels, count] of read(one)) add(sums, labels, count);
    return [...sums].map(([labels, count]) => `${name}{${labels}} ${count}`);
  };
  return [
    ...family("epistyle_answers", "counter", "Answers, by status and by what answered."),
    ...byLabels("epistyle_answers_total", ({ answers }) => answers),
    ...family("epistyle_sent_bytes", "counter", "Bytes of content that were sent.", "bytes"),
    `epistyle_sent_bytes_total ${total(({ bytes }) => bytes)}`,
    ...family("epistyle_cut_off", "counter", "Answers that were cut off, by cause."),
    ...byLabels("epistyle_cut_off_total", ({ cuts }) => cuts),
    ...formatTimes(
      [...BOUNDS, 0].map((_, index) => total(({ times }) => times[index] ?? 0)),
      total(({ seconds }) => seconds),
    ),
    ...formatKept(snapshots.map(({ kept }) => kept)),
    ...formatStore(snapshots.flatMap(({ store }) => store ?? [])),
    ...formatProcess(snapshots, total),
    "# EOF",
    "",
  ].join("\n");
}

function formatTimes(times: readonly number[], seconds: number): string[] {
  let sum = 0;
  const buckets = times.map((count, index) => {
    sum += count;
    const bound = index < BOUNDS.length ? formatNumber(BOUNDS[index]!) : "+Inf";
    return `epistyle_answer_seconds_bucket{le="${bound}"} ${sum}`;
  });
  return [
    ...family(
      "epistyle_answer_seconds",
      "histogram",
      "From the request's head to the answer's last byte.",
      "seconds",
    ),
    ...buckets,
    `epistyle_answer_seconds_count ${sum}`,
    `epistyle_answer_seconds_sum ${seconds}`,
  ];
}

function formatKept(all: readonly (readonly MemoryMetric[])[]): string[] {
  const samples = (name: string, read: (one: MemoryMetric) => number): string[] => {
    const sums = new Map<string, number>();
    for (const one of all.flat())
      add(sums, `store="${escapeLabel(one.name)}",unit="${escapeLabel(one.unit)}"`, read(one));
    return [...sums].map(([labels, value]) => `${name}{${labels}} ${value}`);
  };
  return [
    ...family("epistyle_kept", "gauge", "What is kept in memory, in the unit of each store."),
    ...samples("epistyle_kept", ({ used }) => used),
    ...family("epistyle_kept_bound", "gauge", "The most that each store keeps."),
    ...samples("epistyle_kept_bound", ({ bound }) => bound),
  ];
}

// Several processes have one cache on disk, and each a memory of its own.
function formatStore(all: readonly StoreMetrics[]): string[] {
  if (all.length === 0) return [];
  const total = (read: (one: StoreMetrics) => number): number => all.reduce((sum, one) => sum + read(one), 0);
  return [
    ...family("epistyle_store_reads", "counter", "Files, and pieces of long ones, by where they came from."),
    ...(["memory", "disk", "store"] as const).map(
      (from) => `epistyle_store_reads_total{from="${from}"} ${total(({ counts }) => counts[from])}`,
    ),
    ...family("epistyle_store_failures", "counter", "Reads that the release store failed."),
    `epistyle_store_failures_total ${total(({ counts }) => counts.failures)}`,
    ...family("epistyle_store_read_bytes", "counter", "Bytes that came from the release store.", "bytes"),
    `epistyle_store_read_bytes_total ${total(({ counts }) => counts.bytes)}`,
    ...family("epistyle_store_kept_bytes", "gauge", "Bytes of the release store that are kept.", "bytes"),
    `epistyle_store_kept_bytes{in="memory"} ${total(({ kept }) => kept.memory)}`,
    `epistyle_store_kept_bytes{in="disk"} ${Math.max(...all.map(({ kept }) => kept.disk))}`,
    ...family(
      "epistyle_store_release",
      "gauge",
      "The release that is served; the lowest of several processes.",
    ),
    `epistyle_store_release ${Math.min(...all.map(({ release }) => release))}`,
    ...family("epistyle_store_up", "gauge", "1 while the release store answers."),
    `epistyle_store_up ${all.some(({ isAway }) => isAway) ? 0 : 1}`,
  ];
}

function add(counts: Map<string, number>, labels: string, count: number): void {
  counts.set(labels, (counts.get(labels) ?? 0) + count);
}

/** What answered, in one word: a bounded number of them. */
function kindOf({ answer, delivery }: ResponseRecord): string {
  if (answer.kind === "pass") return "passed on";
  const { code } = answer.reason;
  if (code === "listing" || code === "app-shell" || code === "earlier-release") return code.replace("-", " ");
  if (delivery.status === 304) return "not modified";
  if (delivery.status === 206) return "part";
  if (delivery.status >= 300) return delivery.status < 400 ? "redirect" : "error";
  return "file";
}

function family(name: string, type: string, help: string, unit?: string): string[] {
  return [
    `# TYPE ${name} ${type}`,
    ...(unit === undefined ? [] : [`# UNIT ${name} ${unit}`]),
    `# HELP ${name} ${help}`,
  ];
}

// OpenMetrics §"Considerations: Canonical Numbers": a bound is a number with a point.
function formatNumber(value: number): string {
  return Number.isInteger(value) ? `${value}.0` : String(value);
}

function escapeLabel(text: string): string {
  return text.replace(/["\\]/g, "\\$&").replaceAll("\n", "\\n");
}

function formatProcess(
  snapshots: readonly MetricsSnapshot[],
  total: (read: (one: MetricsSnapshot) => number) => number,
): string[] {
  const isTold = snapshots.some(({ descriptors }) => descriptors !== undefined);
  return [
    ...family("process_resident_memory_bytes", "gauge", "Resident memory.", "bytes"),
    `process_resident_memory_bytes ${total(({ residentBytes }) => residentBytes)}`,
    ...family("process_start_time_seconds", "gauge", "When the counting began, since 1970.", "seconds"),
    `process_start_time_seconds ${Math.min(...snapshots.map(({ startedAt }) => startedAt))}`,
    ...(isTold
      ? [
          ...family("process_open_fds", "gauge", "Open file descriptors."),
          `process_open_fds ${total(({ descriptors }) => descriptors ?? 0)}`,
        ]
      : []),
  ];
}

// Linux and its like tell it by a folder.
function countDescriptors(): number | undefined {
  try {
    return readdirSync("/proc/self/fd").length - 1;
  } catch {
    return undefined;
  }
}
