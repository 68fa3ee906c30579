import { shorten } from "../config/config-file.js";
import { SiteError } from "../config/site-error.js";
import type { Asker } from "../testing/ask/ask.js";
import type { Case } from "../testing/case.js";
import type { Run } from "../testing/reports/run.js";
import { type RunOptions, runCases } from "../testing/run.js";
import type { Target } from "./check-targets.js";

/** Told of a run as it begins and ends; `end` gives true to run nothing more. */
export interface RunListener {
  /** A site is looked over first. */
  look(about: string, found: number): void;
  begin(cases: number): void;
  end(run: Run): boolean;
}

/** Runs the targets one after another. */
export async function runTargets(
  targets: readonly Target[],
  options: RunOptions,
  listener: RunListener,
  only: string | undefined,
): Promise<void> {
  for (const { title, asker, looksFirst, inFile, makeCases } of targets) {
    if (options.signal?.aborted) return;
    const startedAt = Date.now();
    const started = performance.now();
    const look = (found: number): void => listener.look(asker.about, found);
    if (looksFirst) look(0);
    const cases = filterCases(await lookAround(title, asker, () => makeCases(look)), only);
    if (cases.length === 0) continue;
    listener.begin(cases.length);
    const results = await runCases(cases, asker, options);
    const milliseconds = performance.now() - started;
    const { about, address } = asker;
    const inProcess = asker.explain !== undefined;
    const run = { title, about, address, inProcess, inFile, startedAt, milliseconds, results };
    if (listener.end(run)) return;
  }
}

// A site that does not answer at all cannot be looked over: that is no failed case but work that cannot be done.
async function lookAround(title: string, asker: Asker, makeCases: () => Promise<Case[]>): Promise<Case[]> {
  try {
    return await makeCases();
  } catch (error) {
    if (error instanceof SiteError) throw error;
    throw new SiteError([`${shorten(title)}: ${asker.about} does not answer: ${(error as Error).message}.`]);
  }
}

function filterCases(cases: readonly Case[], only: string | undefined): readonly Case[] {
  if (only === undefined) return cases;
  const text = only.toLowerCase();
  return cases.filter(({ name, group = "" }) => `${group}: ${name}`.toLowerCase().includes(text));
}
