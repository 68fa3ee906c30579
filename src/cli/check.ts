import type { Command } from "commander";
import { loadConfigFile } from "../adapters/node.js";
import { openSite } from "../site/open.js";
import { SiteError } from "../site/problems.js";
import { type Asker, askSite } from "../testing/ask.js";
import { type Expectations, loadExpectations } from "../testing/load.js";
import { runCases } from "../testing/run.js";
import { reportPretty } from "./check-report.js";
import { openTerminal } from "./terminal.js";

interface CheckOptions {
  readonly config?: string;
  readonly against?: string;
}

export function addCheck(program: Command): void {
  program
    .command("check")
    .summary("check responses against expectations")
    .description(
      "Runs the cases of expectations files: in this process against a configuration, or against a server. " +
        "Exit status: 0 when all pass, 1 when a case fails, 2 when they could not be run.",
    )
    .argument("<FILE...>", "expectations files, YAML or JSON")
    .option("--config <FILE>", "the configuration to run against, in place of the one the file names")
    .option("--against <URL>", "ask the server at this address, over the network")
    .addHelpText(
      "after",
      `
An expectations file:
  version: 1
  config: epistyle.config.yaml
  cases:
    - name: the front page
      request: GET /
      expect: { status: 200, mediaType: text/html }

Examples:
  epistyle check expectations.yaml
  epistyle check expectations.yaml --against http://127.0.0.1:8080/`,
    )
    .action(async (files: string[], options: CheckOptions) => {
      const terminal = openTerminal(process.stdout);
      const loaded: Expectations[] = [];
      for (const file of files) loaded.push(await loadExpectations(file));
      for (const expectations of loaded) {
        const asker = await openAsker(expectations, options);
        try {
          const results = await runCases(expectations.cases, asker);
          reportPretty(terminal, `${expectations.file}, ${asker.about}`, results);
          if (results.some(({ outcome }) => outcome !== "passed")) process.exitCode = 1;
        } finally {
          await asker.close();
        }
      }
    });
}

async function openAsker({ file, config }: Expectations, options: CheckOptions): Promise<Asker> {
  if (options.against !== undefined && options.config !== undefined) {
    throw new SiteError([
      "Found both --against and --config; a case is put to a server or to a configuration: leave one out.",
    ]);
  }
  if (options.against !== undefined) {
    const { askServer } = await import("../testing/ask-server.js");
    return askServer(options.against);
  }
  const path = options.config ?? config;
  if (path === undefined) {
    throw new SiteError([
      `${file}: names no configuration; write config: epistyle.config.yaml in it, or give --config FILE or --against URL.`,
    ]);
  }
  return askSite(await openSite(await loadConfigFile(path)), "in process");
}
