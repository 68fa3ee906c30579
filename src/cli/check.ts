import { type Command, Option } from "commander";
import { PACKS_IN_WORDS } from "../testing/packs/names.js";
import {
  CHECK_REPORTS,
  collectAssignment,
  collectHeader,
  collectPath,
  parseCount,
  parseTime,
  parseWidth,
} from "./check-options.js";
import type { CheckOptions } from "./check-run.js";
import { describeReport, REPORT_FLAGS, readReport } from "./report-targets.js";

export function addCheck(program: Command): void {
  const packs = Object.entries(PACKS_IN_WORDS).map(([name, what]) => `  ${name.padEnd(13)}${what}`);
  program
    .command("check")
    .summary("check responses against expectations")
    .description(
      "Runs expectations from files and ready-made packs, in this process against a configuration, or against a server. " +
        "Exit status: 0 if all pass, 1 if a case fails, 2 if they could not run.",
    )
    .argument(
      "[FILE|FOLDER|PACK...]",
      "expectations files (YAML or JSON), folders of them, and names of packs; without any, expectations.yaml and *.expectations.yaml here",
    )
    .option("--config <FILE>", "the configuration to run against, instead of the one a file names")
    .option("--folder <DIR>", "run against a folder served without a configuration")
    .option("--against <URL>", "ask the server at this address, over the network")
    .option("--header <FIELD>", "send 'Name: value' with every request; may be repeated", collectHeader)
    .option(
      "--set <NAME=VALUE>",
      "give a variable of the file another value; may be repeated",
      collectAssignment,
    )
    .option("--path <PATH>", "have packs look at this address too; may be repeated", collectPath)
    .option("--only <TEXT>", "run only cases with this text in their name or group")
    .option("--first-failure", "stop after the first failed case")
    .option("--concurrency <N>", "cases in progress at a time", parseWidth)
    .option("--timeout <TIME>", "how long to wait for an answer, such as 5s or 1m (default 10s)", parseTime)
    .option("--retries <N>", "ask a failed case this many times more, a second apart (default 0)", parseCount)
    .option("--accept <FILE>", "known failures: they do not fail the run, and are shown separately")
    .option(
      "--methods",
      "let the pack methods send POST, PUT, DELETE and PATCH to a server on another machine",
    )
    .option("--strict", "let advice fail too, such as missing compression")
    .option("--insecure-tls", "accept an untrusted certificate")
    .addOption(new Option(REPORT_FLAGS, describeReport(CHECK_REPORTS)).argParser(readReport(CHECK_REPORTS)))
    .option("--har <FILE>", "record requests and answers, for a browser's network panel")
    .option("--watch", "run again when an expectations file, the configuration or a served file changes")
    .addHelpText(
      "after",
      `
Packs:
${packs.join("\n")}

An expectations file:
  version: 1
  config: epistyle.config.yaml
  cases:
    - name: the front page
      request: GET /
      expect: { status: 200, mediaType: text/html, caching: revalidated each time }
      alsoAsk: [revisit, head]

Examples:
  epistyle check expectations.yaml
  epistyle check expectations.yaml --against https://staging.example.org/ --report junit=report.xml
  epistyle check conditional ranges exposure --against http://127.0.0.1:8080/`,
    )
    .action(async (words: string[], options: CheckOptions) => {
      // The other commands have no use for what this one needs.
      const { runCheck } = await import("./check-run.js");
      await runCheck(words, options);
    });
}
