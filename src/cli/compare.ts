import { type Command, Option } from "commander";
import { collectHeader, collectPath, parseTime, parseWidth } from "./check-options.js";
import { COMPARE_REPORTS, type CompareOptions } from "./compare-options.js";
import { describeReport, REPORT_FLAGS, readReport } from "./report-targets.js";

export function addCompare(program: Command): void {
  program
    .command("compare")
    .summary("compare the answers of two sites or two releases")
    .description(
      "Asks two sites the same questions, and shows what differs in status, important fields and content, with the likely reason. " +
        "Dates, connection fields and fields that proxies add are left out. For two folders, seals or configurations it lists the addresses " +
        "that answer in the first but not in the second, with rules that redirect to where the content is now. " +
        "Exit status: 0 if nothing differs, 1 if something does, 2 if a site could not be asked.",
    )
    .argument(
      "<HERE>",
      "an address, a configuration file, a folder or a seal file: the earlier one of two releases",
    )
    .argument("<THERE>", "the other one: an address, a configuration file, a folder or a seal file")
    .argument(
      "[FILE...]",
      "expectations files whose requests are sent; without one, the addresses that HERE serves",
    )
    .option("--path <PATH>", "ask for this address too; may be repeated", collectPath)
    .option("--header <FIELD>", "send 'Name: value' with every request; may be repeated", collectHeader)
    .option("--all-fields", "also list the differences that are left out")
    .option("--concurrency <N>", "requests in progress at a time", parseWidth)
    .option("--timeout <TIME>", "how long to wait for an answer, such as 5s (default 10s)", parseTime)
    .addOption(
      new Option(
        "--fail-on <WHAT>",
        "end with status 1 for any difference, only for lost addresses, or never",
      )
        .choices(["difference", "lost", "never"])
        .default("difference"),
    )
    .option("--insecure-tls", "accept an untrusted certificate")
    .addOption(
      new Option(REPORT_FLAGS, describeReport(COMPARE_REPORTS)).argParser(readReport(COMPARE_REPORTS)),
    )
    .addHelpText(
      "after",
      `
Examples:
  epistyle compare http://127.0.0.1:8080/ https://www.example.org/
  epistyle compare epistyle.config.yaml https://www.example.org/ expectations.yaml
  epistyle compare ../last-release ./dist --fail-on lost     which addresses the new build lost
  epistyle compare old.config.yaml new.config.yaml --report html=changes.html`,
    )
    .action(async (here: string, there: string, files: string[], options: CompareOptions) => {
      const { runCompare } = await import("./compare-run.js");
      await runCompare(here, there, files, options);
    });
}
