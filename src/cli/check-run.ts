import { existsSync } from "node:fs";
import { openTerminal } from "../adapters/log/terminal.js";
import { SiteError } from "../config/site-error.js";
import { formatCount } from "../core/text/size.js";
import { type AcceptedFailure, loadAcceptedFailures, makeBaseline } from "../testing/accepted.js";
import { checkedNothing, type Run } from "../testing/reports/run.js";
import { isBad } from "../testing/run.js";
import type { CheckReport, CheckRequest } from "./check-options.js";
import { readTargets } from "./check-targets.js";
import { findExpectations } from "./find-expectations.js";
import { openProgress } from "./progress.js";
import type { ReportTarget } from "./report-targets.js";
import { openReports } from "./reports.js";
import { runTargets } from "./run-targets.js";

export interface CheckOptions extends Omit<CheckRequest, "words"> {
  readonly firstFailure?: true;
  readonly accept?: string;
  readonly report?: readonly ReportTarget<CheckReport>[];
  readonly har?: string;
  readonly watch?: true;
}

/** Checks what the command line says, once or again with every change. Sets the exit status. */
export async function runCheck(given: readonly string[], options: CheckOptions): Promise<void> {
  if (!options.watch) {
    await runOnce(given, options);
    return;
  }
  const words = await findExpectations(given);
  const { watchAndRun } = await import("./watch.js");
  const named = [...words, options.config].filter((word) => word !== undefined && existsSync(word));
  await watchAndRun(named as string[], (signal) => runOnce(words, options, signal));
}

/** Runs everything once. Gives the files that the outcome depends on. */
async function runOnce(
  given: readonly string[],
  options: CheckOptions,
  signal?: AbortSignal,
): Promise<string[]> {
  const terminal = openTerminal(process.stdout);
  const reports = await openReports(terminal, options.report ?? [], options.har);
  const baseline =
    options.accept === undefined ? undefined : makeBaseline(await loadAcceptedFailures(options.accept));
  const targets = await readTargets({ ...options, words: await findExpectations(given) });
  const progress = openProgress(process.stderr);
  const runs: Run[] = [];
  try {
    await runTargets(
      targets,
      {
        concurrency: options.concurrency,
        timeoutMs: options.timeout,
        retries: options.retries,
        strict: options.strict,
        stopAtFailure: options.firstFailure,
        keepTexts: options.har !== undefined,
        judge: baseline?.judge,
        signal,
        onResult: progress.count,
      },
      {
        look: (about, found) =>
          progress.say(`Looking over ${about} …${found > 0 ? ` ${formatCount(found)} addresses` : ""}`),
        begin: (count) => progress.begin(count),
        end(run) {
          progress.end();
          runs.push(run);
          reports.print(run);
          return options.firstFailure === true && run.results.some(isBad);
        },
      },
      options.only,
    );
  } finally {
    progress.end();
    for (const { asker } of targets) await asker.close();
  }
  await reports.finish(runs);
  // What was not asked cannot occur.
  if (options.only === undefined && !signal?.aborted && options.firstFailure !== true)
    sayGone(baseline?.listGone() ?? [], options.accept);
  if (runs.flatMap(({ results }) => results).length === 0) {
    throw new SiteError([
      `--only: found ${JSON.stringify(options.only)}, but no case has it in its name or group.`,
    ]);
  }
  const isEmpty = runs.every(({ results }) => checkedNothing(results));
  if (isEmpty) process.stderr.write("Nothing was checked: every case was skipped.\n");
  process.exitCode = isEmpty || runs.some(({ results }) => results.some(isBad)) ? 1 : 0;
  return targets.flatMap(({ watched }) => watched);
}

// On the other stream: the report may be read by a program.
function sayGone(gone: readonly AcceptedFailure[], file: string | undefined): void {
  for (const one of gone)
    process.stderr.write(
      `${file}: ${JSON.stringify(one.case)} is accepted but no longer fails; remove it.\n`,
    );
}
