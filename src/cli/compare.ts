import { type Command, Option } from "commander";
import { collectHeader, collectPath, parseTime, parseWidth } from "./check-options.js";
import type { CompareOptions } from "./compare-run.js";

export function addCompare(program: Command): void {
  program
    .command("compare")
    .summary("compare what two addresses answer")
    .description(
      "Asks two sites the same, and tells what differs in status, fields that matter and content, with the likely reason. " +
        "Dates, connection fields and what proxies add are left out. " +
        "Exit status: 0 when nothing differs, 1 when something does, 2 when it could not be asked.",
    )
    .argument("<HERE>", "an address, or a configuration file to be asked in this process")
    .argument("<THERE>", "the other address, or configuration file")
    .argument(
      "[FILE...]",
      "expectations files whose requests are put; without one, what HERE serves is found out",
    )
    .option("--path <PATH>", "ask for this address too; may be repeated", collectPath)
    .option("--header <FIELD>", "send 'Name: value' with every request; may be repeated", collectHeader)
    .option("--all-fields", "list the differences that are left out too")
    .option("--concurrency <N>", "requests under way at a time", parseWidth)
    .option("--timeout <TIME>", "how long to wait for an answer, such as 5s (10s when left out)", parseTime)
    .option("--insecure-tls", "take a certificate that nobody vouches for")
    .addOption(new Option("--report <FORM>", "how it is told").choices(["pretty", "json"]).default("pretty"))
    .addHelpText(
      "after",
      `
Examples:
  epistyle compare http://127.0.0.1:8080/ https://www.example.org/
  epistyle compare epistyle.config.yaml https://www.example.org/ expectations.yaml`,
    )
    .action(async (here: string, there: string, files: string[], options: CompareOptions) => {
      const { runCompare } = await import("./compare-run.js");
      await runCompare(here, there, files, options);
    });
}
