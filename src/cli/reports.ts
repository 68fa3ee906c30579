import { readFileSync } from "node:fs";
import { mkdir, open, writeFile } from "node:fs/promises";
import { dirname, resolve } from "node:path";
import pc from "picocolors";
import { SiteError } from "../config/site-error.js";
import { reportHar } from "../testing/reports/har.js";
import { reportHtml } from "../testing/reports/html.js";
import { reportJson } from "../testing/reports/json.js";
import { reportJunit } from "../testing/reports/junit.js";
import type { Run } from "../testing/reports/run.js";
import { reportSarif } from "../testing/reports/sarif.js";
import { reportTap } from "../testing/reports/tap.js";
import type { ReportForm, ReportTarget } from "./check-options.js";
import { reportPretty } from "./check-report.js";
import type { Terminal } from "./terminal.js";

const FORMS: Readonly<Record<Exclude<ReportForm, "pretty">, (runs: readonly Run[]) => string>> = {
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
  targets: readonly ReportTarget[],
  har: string | undefined,
): Promise<Reports> {
  for (const { file } of targets) if (file !== undefined) await prepareFile(file, "--report");
  if (har !== undefined) await prepareFile(har, "--har");
  const onTerminal = targets.find(({ file }) => file === undefined)?.form ?? "pretty";
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
          await writeFile(file, form === "pretty" ? writePretty(runs) : FORMS[form](runs));
      if (har !== undefined) await writeFile(har, reportHar(runs, readVersion()));
    },
  };
}

function writePretty(runs: readonly Run[]): string {
  const lines: string[] = [];
  const plain: Terminal = {
    columns: undefined,
    colors: pc.createColors(false),
    print: (line = "") => void lines.push(line),
  };
  for (const run of runs) reportPretty(plain, run);
  return `${lines.join("\n")}\n`;
}

async function prepareFile(file: string, option: string): Promise<void> {
  try {
    await mkdir(dirname(resolve(file)), { recursive: true });
    await (await open(file, "a")).close();
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    throw new SiteError([
      `${option}: ${file} cannot be written (${code}); name a file in a folder that you can write to.`,
    ]);
  }
}

function readVersion(): string {
  return JSON.parse(readFileSync(new URL("../../package.json", import.meta.url), "utf8")).version;
}
