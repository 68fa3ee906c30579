import type { Command } from "commander";
import { collectHeader, collectPath, parseTime } from "./check-options.js";
import type { DraftOptions } from "./draft-run.js";

export function addDraft(program: Command): void {
  program
    .command("draft")
    .summary("write a first expectations file")
    .description(
      "Writes an expectations file from today's answers: one case for each kind of answer, grouped, without what changes " +
        "from day to day. Without an option it reads the one epistyle.config.yaml, .json, .js or .mjs of this folder.",
    )
    .option("--config <FILE>", "from the files of this configuration")
    .option("--folder <DIR>", "from a folder served without a configuration")
    .option("--against <URL>", "from the server at this address, by following its links")
    .option("--from <FILE>", "from a HAR recording that a browser's network panel saved")
    .option("--path <PATH>", "a case for this address too; may be repeated", collectPath)
    .option(
      "--header <FIELD>",
      "send 'Name: value' with every request to the server; may be repeated",
      collectHeader,
    )
    .option("--timeout <TIME>", "how long to wait for an answer, such as 5s (default 10s)", parseTime)
    .option("--insecure-tls", "accept an untrusted certificate")
    .option("--out <FILE>", "write to this new file; otherwise to standard output")
    .addHelpText(
      "after",
      `
Examples:
  epistyle draft --out expectations.yaml
  epistyle draft --against https://www.example.org/ --out live.yaml
  epistyle draft --from visit.har --out visit.yaml`,
    )
    .action(async (options: DraftOptions) => {
      const { runDraft } = await import("./draft-run.js");
      await runDraft(options);
    });
}
