import { readdirSync } from "node:fs";
import type { Memory } from "../core/memory/memory.js";
import type { ResponseRecord } from "./node-handler.js";

/** The media type of the text (OpenMetrics 1.0 §"Protocol negotiation"). */
export const FIGURES_TYPE = "application/openmetrics-text; version=1.0.0; charset=utf-8";

/** Upper bounds of the times that are counted, in seconds. */
const BOUNDS = [0.001, 0.0025, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30];

/** Counts what a server answered, for whoever watches it. What it holds does not grow with the requests. */
export class Figures {
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
    add(this.#answers, `status="${delivery.status}",kind="${kindOf(record)}"`);
    if (delivery.cutOff !== undefined) add(this.#cuts, `cause="${delivery.cutOff}"`);
    this.#bytes += delivery.bytes;
    const seconds = milliseconds / 1000;
    this.#seconds += seconds;
    let at = 0;
    while (at < BOUNDS.length && seconds > BOUNDS[at]!) at++;
    this.#times[at]!++;
  }

  /** The figures as OpenMetrics text, with what is kept in memory. */
  format(memory: Memory): string {
    return [
      ...family("epistyle_answers", "counter", "Answers, by status and by what answered."),
      ...[...this.#answers].map(([labels, count]) => `epistyle_answers_total{${labels}} ${count}`),
      ...family("epistyle_sent_bytes", "counter", "Bytes of content that were sent.", "bytes"),
      `epistyle_sent_bytes_total ${this.#bytes}`,
      ...family("epistyle_cut_off", "counter", "Answers that were cut off, by cause."),
      ...[...this.#cuts].map(([labels, count]) => `epistyle_cut_off_total{${labels}} ${count}`),
      ...family(
        "epistyle_answer_seconds",
        "histogram",
        "From the request's head to the answer's last byte.",
        "seconds",
      ),
      ...this.#formatTimes(),
      ...formatKept(memory),
      ...formatProcess(this.#startedAt),
      "# EOF",
      "",
    ].join("\n");
  }

  #formatTimes(): string[] {
    let sum = 0;
    const buckets = this.#times.map((count, index) => {
      sum += count;
      const bound = index < BOUNDS.length ? formatNumber(BOUNDS[index]!) : "+Inf";
      return `epistyle_answer_seconds_bucket{le="${bound}"} ${sum}`;
    });
    return [
      ...buckets,
      `epistyle_answer_seconds_count ${sum}`,
      `epistyle_answer_seconds_sum ${this.#seconds}`,
    ];
  }
}

function formatKept(memory: Memory): string[] {
  const figures = memory.figures();
  const samples = (name: string, read: (one: (typeof figures)[number]) => number): string[] =>
    figures.map(
      (one) => `${name}{store="${escapeLabel(one.name)}",unit="${escapeLabel(one.unit)}"} ${read(one)}`,
    );
  return [
    ...family("epistyle_kept", "gauge", "What is kept in memory, in the unit of each store."),
    ...samples("epistyle_kept", ({ used }) => used),
    ...family("epistyle_kept_bound", "gauge", "The most that each store keeps."),
    ...samples("epistyle_kept_bound", ({ bound }) => bound),
  ];
}

function add(counts: Map<string, number>, labels: string): void {
  counts.set(labels, (counts.get(labels) ?? 0) + 1);
}

/** What answered, in one word: a bounded number of them. */
function kindOf({ answer, delivery }: ResponseRecord): string {
  if (answer.kind === "pass") return "handed on";
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

function formatProcess(startedAt: number): string[] {
  const descriptors = countDescriptors();
  return [
    ...family("process_resident_memory_bytes", "gauge", "Resident memory.", "bytes"),
    `process_resident_memory_bytes ${process.memoryUsage.rss()}`,
    ...family("process_start_time_seconds", "gauge", "When the counting began, since 1970.", "seconds"),
    `process_start_time_seconds ${startedAt}`,
    ...(descriptors === undefined
      ? []
      : [
          ...family("process_open_fds", "gauge", "Open file descriptors."),
          `process_open_fds ${descriptors}`,
        ]),
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
