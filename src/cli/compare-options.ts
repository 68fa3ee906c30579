import type { ReportTarget } from "./report-targets.js";

export const COMPARE_REPORTS = ["pretty", "json", "html"] as const;
export type CompareReport = (typeof COMPARE_REPORTS)[number];

export interface CompareOptions {
  readonly path?: readonly string[];
  readonly header?: Readonly<Record<string, string>>;
  readonly allFields?: true;
  readonly concurrency?: number;
  /** In milliseconds. */
  readonly timeout?: number;
  readonly failOn: "difference" | "lost" | "never";
  readonly insecureTls?: true;
  readonly report?: readonly ReportTarget<CompareReport>[];
}
