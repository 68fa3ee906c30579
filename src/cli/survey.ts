import { type Command, InvalidArgumentError, Option } from "commander";
import { openTerminal } from "../adapters/log/terminal.js";
import { parseSize } from "../config/sizes.js";
import { formatCount } from "../core/text/size.js";
import { chooseDefinition } from "./definition.js";
import { openProgress } from "./progress.js";
import {
  clearReports,
  describeReport,
  REPORT_FLAGS,
  type ReportTarget,
  readReport,
  writeReports,
} from "./report-targets.js";

const REPORTS = ["pretty", "json", "sarif", "html"] as const;
const LEVELS = ["severe", "warning", "advice", "never"] as const;

interface SurveyCommandOptions {
  readonly config?: string;
  readonly kind?: "pages" | "app" | "archive";
  readonly listing?: true;
  readonly asUser?: string;
  readonly accept?: string;
  readonly report?: readonly ReportTarget<(typeof REPORTS)[number]>[];
  readonly failOn: (typeof LEVELS)[number];
  readonly all?: true;
  readonly pictureBudget?: number;
}

export function addSurvey(program: Command): void {
  program
    .command("survey")
    .summary("look over a folder before you publish it")
    .description(
      "Looks at every file that visitors can reach: files they should not get, links that will not work, files that will be slow or " +
        "out of date, and files that are not what their names say. Without FOLDER and --config it reads the one epistyle.config.yaml, .json, .js or " +
        ".mjs of this folder.",
    )
    .argument("[FOLDER]", "the folder that will be served")
    .option("-c, --config <FILE>", "look at the site of this configuration")
    .addOption(
      new Option("--kind <K>", "starting set of rules for FOLDER").choices(["pages", "app", "archive"]),
    )
    .option("--listing", "as if FOLDER had listings")
    .option("--as-user <USER>", "find files that this user may not read; a name or number")
    .option("--accept <FILE>", "leave out the known findings in this file")
    .addOption(new Option(REPORT_FLAGS, describeReport(REPORTS)).argParser(readReport(REPORTS)))
    .addOption(
      new Option("--fail-on <LEVEL>", "end with status 1 for a finding of this severity or worse")
        .choices(LEVELS)
        .default("severe"),
    )
    .option(
      "--picture-budget <SIZE>",
      "largest picture that pages may load, such as 300KB (1MB when not given)",
      readSize,
    )
    .option("--all", "show every address, and every file that names it")
    .addHelpText(
      "after",
      `
Examples:
  epistyle survey ./public
  epistyle survey ./dist --kind app --fail-on warning
  epistyle survey --as-user www-data               the site of ./epistyle.config.yaml, as that user would serve it
  epistyle survey ./public --report html=survey.html`,
    )
    .action(async (folder: string | undefined, options: SurveyCommandOptions) => {
      process.exitCode = await run(folder, options);
    });
}

async function run(folder: string | undefined, options: SurveyCommandOptions): Promise<number> {
  const { surveySite, acceptKnown } = await import("../survey/index.js");
  const targets = options.report ?? [];
  await clearReports(targets);
  const definition = await chooseDefinition(folder, options.config, options);
  const known = options.accept === undefined ? undefined : await readAccepted(options.accept);
  const progress = openProgress(process.stderr);
  const survey = await surveySite(definition, {
    ...(options.asUser !== undefined && { asUser: options.asUser }),
    pictureBudget: options.pictureBudget,
    onProgress: (read, total) => {
      if (read % 1024 === 0) progress.say(`${formatCount(read)} of ${formatCount(total)} files`);
    },
  }).finally(() => progress.end());
  const judged = acceptKnown(survey.findings, known ?? []);
  const subject = folder ?? options.config ?? "the configuration of this folder";
  await write({ ...survey, ...judged, subject }, targets, options.all === true);
  const { failOn } = options;
  if (failOn === "never") return 0;
  const levels = LEVELS.slice(0, LEVELS.indexOf(failOn) + 1) as readonly string[];
  return judged.findings.some(({ severity }) => levels.includes(severity)) ? 1 : 0;
}

function readSize(written: string): number {
  const bytes = parseSize(written);
  if (bytes === undefined) throw new InvalidArgumentError("A size is written such as 300KB, 2MB or 500000.");
  return bytes;
}

type Judged = import("../survey/index.js").JudgedSurvey;

async function write(
  survey: Judged,
  targets: readonly ReportTarget<(typeof REPORTS)[number]>[],
  all: boolean,
): Promise<void> {
  const [{ reportJson, reportSarif, reportHtml }, { printSurvey }] = await Promise.all([
    import("../survey/index.js"),
    import("./survey-report.js"),
  ]);
  await writeReports(openTerminal(process.stdout), targets, {
    pretty: (terminal) => printSurvey(terminal, survey, all),
    json: () => reportJson(survey),
    sarif: () => reportSarif(survey),
    html: () => reportHtml(survey),
  });
}

async function readAccepted(file: string): Promise<readonly import("../survey/index.js").Accepted[]> {
  const { loadAccepted } = await import("../survey/index.js");
  return loadAccepted(file);
}
