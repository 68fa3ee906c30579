import { readFileSync } from "node:fs";
import type { Terminal } from "../adapters/log/terminal.js";
import { reportHar } from "../testing/reports/har.js";
import { reportHtml } from "../testing/reports/html.js";
import { reportJson } from "../testing/reports/json.js";
import { reportJunit } from "../testing/reports/junit.js";
import type { Run } from "../testing/reports/run.js";
import { reportSarif } from "../testing/reports/sarif.js";
import { reportTap } from "../testing/reports/tap.js";
import type { CheckReport } from "./check-options.js";
import { reportPretty } from "./check-report.js";
import { clearReport, writeReport } from "./report-file.js";
import { clearReports, formOnTerminal, type ReportTarget, writePlain } from "./report-targets.js";

const FORMS: Readonly<Record<Exclude<CheckReport, "pretty">, (runs: readonly Run[]) => string>> = {
  tap: reportTap,
  junit: reportJunit,
  json: reportJson,
  html: reportHtml,
  sarif: reportSarif,
};

export interface Reports {
  /** Prints a run at once, where the report for people goes to the terminal. */
  print(run: Run): void;
  /** Writes what is made from all runs together. */
  finish(runs: readonly Run[]): Promise<void>;
}

/**
 * Prepares the reports. People get theirs on the terminal, unless another report goes there. Rejects with a SiteError when a
 * file cannot be written, before anything is asked.
 */
export async function openReports(
  terminal: Terminal,
  targets: readonly ReportTarget<CheckReport>[],
  har: string | undefined,
): Promise<Reports> {
  await clearReports(targets);
  if (har !== undefined) await clearReport(har, "--har");
  const onTerminal = formOnTerminal(targets);
  let printed = 0;
  return {
    print(run) {
      if (onTerminal !== "pretty") return;
      if (printed++ > 0) terminal.print();
      reportPretty(terminal, run);
    },
    async finish(runs) {
      if (onTerminal !== "pretty") terminal.print(FORMS[onTerminal](runs).trimEnd());
      for (const { form, file } of targets)
        if (file !== undefined)
          await writeReport(file, "--report", form === "pretty" ? writeAll(runs) : FORMS[form](runs));
      if (har !== undefined) await writeReport(har, "--har", reportHar(runs, readVersion()));
    },
  };
}

const writeAll = (runs: readonly Run[]): string =>
  writePlain((terminal) => {
    for (const run of runs) reportPretty(terminal, run);
  });

function readVersion(): string {
  return JSON.parse(readFileSync(new URL("../../package.json", import.meta.url), "utf8")).version;
}
