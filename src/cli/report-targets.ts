import { InvalidArgumentError } from "commander";
import pc from "picocolors";
import type { Terminal } from "../adapters/log/terminal.js";
import { clearReport, writeReport } from "./report-file.js";

/** A report, and the file it goes to; undefined for standard output. */
export interface ReportTarget<Form extends string = string> {
  readonly form: Form;
  readonly file: string | undefined;
}

/** What `--report` takes, in the help's words. */
export const REPORT_FLAGS = "--report <FORM[=FILE]>";

/** Describes `--report`: its forms are `pretty`, which is the default, and others. */
export function describeReport(forms: readonly string[]): string {
  return `${forms.slice(0, -1).join(", ")} or ${forms.at(-1)}; to standard output or to a file; may be repeated`;
}

/** Reads `--report`, which may be repeated: one report goes to standard output at most. */
export function readReport<Form extends string>(forms: readonly Form[]) {
  return (text: string, before: readonly ReportTarget<Form>[] = []): ReportTarget<Form>[] => {
    const at = text.indexOf("=");
    const form = forms.find((one) => one === (at < 0 ? text : text.slice(0, at)));
    const file = at < 0 ? undefined : text.slice(at + 1);
    if (form === undefined || file === "")
      throw new InvalidArgumentError(
        `A report is one of ${forms.join(", ")}; add =FILE to write it to a file.`,
      );
    if (file === undefined && before.some((one) => one.file === undefined))
      throw new InvalidArgumentError(
        "Standard output takes one report; write the other to a file: add =FILE.",
      );
    return [...before, { form, file }];
  };
}

/** The form that goes to standard output: people get theirs, unless another one does. */
export function formOnTerminal<Form extends string>(targets: readonly ReportTarget<Form>[]): Form | "pretty" {
  return targets.find(({ file }) => file === undefined)?.form ?? "pretty";
}

/** Makes sure that all can be written, before anything is asked. Rejects with a SiteError. */
export async function clearReports(targets: readonly ReportTarget[]): Promise<void> {
  for (const { file } of targets) if (file !== undefined) await clearReport(file, "--report");
}

/** How a report is made: for people, and each other form as a text. */
export type ReportWriters<Form extends string> = Readonly<Record<Exclude<Form, "pretty">, () => string>> & {
  readonly pretty: (terminal: Terminal) => void;
};

/** Writes each report where it goes. Rejects with a SiteError when a file cannot be written. */
export async function writeReports<Form extends string>(
  terminal: Terminal,
  targets: readonly ReportTarget<Form>[],
  writers: ReportWriters<Form>,
): Promise<void> {
  const write = (form: Form | "pretty"): string =>
    form === "pretty"
      ? writePlain(writers.pretty)
      : (writers as unknown as Record<string, () => string>)[form]!();
  const shown = formOnTerminal(targets);
  if (shown === "pretty") writers.pretty(terminal);
  else terminal.print(write(shown).trimEnd());
  for (const { form, file } of targets)
    if (file !== undefined) await writeReport(file, "--report", write(form));
}

/** What is printed for people, as a text without colours: a file is read later, and elsewhere. */
export function writePlain(print: (terminal: Terminal) => void): string {
  const lines: string[] = [];
  print({
    columns: undefined,
    colors: pc.createColors(false),
    print: (line = "") => void lines.push(line),
  });
  return `${lines.join("\n")}\n`;
}
