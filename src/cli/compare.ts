import { type Command, Option } from "commander";
import { collectHeader, collectPath, parseTime, parseWidth } from "./check-options.js";
import type { CompareOptions } from "./compare-run.js";

export function addCompare(program: Command): void {
  program
    .command("compare")
    .summary("compare what two sites or two releases answer")
    .description(
      "Asks two sites the same, and tells what differs in status, fields that matter and content, with the likely reason. " +
        "Dates, connection fields and what proxies add are left out. Of two folders, seals or configurations it lists the addresses " +
        "that answered in the first and do not in the second, with rules that lead to where the content is now. " +
        "Exit status: 0 when nothing differs, 1 when something does, 2 when it could not be asked.",
    )
    .argument(
      "<HERE>",
      "an address, a configuration file, a folder or a seal file: the earlier one of two releases",
    )
    .argument("<THERE>", "the other one")
    .argument(
      "[FILE...]",
      "expectations files whose requests are put; without one, what HERE serves is found out",
    )
    .option("--path <PATH>", "ask for this address too; may be repeated", collectPath)
    .option("--header <FIELD>", "send 'Name: value' with every request; may be repeated", collectHeader)
    .option("--all-fields", "list the differences that are left out too")
    .option("--concurrency <N>", "requests under way at a time", parseWidth)
    .option("--timeout <TIME>", "how long to wait for an answer, such as 5s (10s when left out)", parseTime)
    .addOption(
      new Option(
        "--fail-on <WHAT>",
        "end with status 1 for any difference, only for lost addresses, or never",
      )
        .choices(["difference", "lost", "never"])
        .default("difference"),
    )
    .option("--insecure-tls", "accept an untrusted certificate")
    .addOption(new Option("--report <FORM>", "how it is told").choices(["pretty", "json"]).default("pretty"))
    .addHelpText(
      "after",
      `
Examples:
  epistyle compare http://127.0.0.1:8080/ https://www.example.org/
  epistyle compare epistyle.config.yaml https://www.example.org/ expectations.yaml
  epistyle compare ../last-release ./dist --fail-on lost     which addresses the new build lost`,
    )
    .action(async (here: string, there: string, files: string[], options: CompareOptions) => {
      const { runCompare } = await import("./compare-run.js");
      await runCompare(here, there, files, options);
    });
}
