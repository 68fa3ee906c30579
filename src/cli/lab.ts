import type { Command } from "commander";

import type { LabOptions } from "./lab-run.js";
import { parsePort } from "./listen-values.js";

export function addLab(program: Command): void {
  program
    .command("lab")
    .summary("look at a site from inside, in the browser")
    .description(
      "Opens a page on this machine that shows a site from inside: its files as visitors get them, how each answer comes about, which " +
        "addresses a new configuration would change, and requests as they arrive. The site itself is served beside it. " +
        "Without FOLDER and --config it reads the one epistyle.config.yaml, .json, .js or .mjs of this folder.",
    )
    .argument("[FOLDER]", "the folder to look at")
    .option("-c, --config <FILE>", "read the configuration from this file")
    .option(
      "--expectations <FILE>",
      "the expectations file to write and run (expectations.yaml beside the configuration)",
    )
    .option("--edit", "let the page save the configuration and the expectations")
    .option("-p, --port <N>", "port of the page; 0 picks a free one", parsePort, 0)
    .option(
      "--token-file <FILE>",
      "keep the page's token in this file, so that its address stays the same (with --port); created if it does not exist",
    )
    .option("--site-port <N>", "port of the site itself; 0 picks a free one", parsePort, 0)
    .addHelpText(
      "after",
      `
Examples:
  epistyle lab ./public                 look at one folder
  epistyle lab --edit                   and let the page save ./epistyle.config.yaml
  epistyle serve --lab                  a lab beside a running server

Only this machine can open it, with the token in the address. Stop it with Ctrl-C.`,
    )
    .action(async (folder: string | undefined, options: LabOptions) => {
      const { runLab } = await import("./lab-run.js");
      await runLab(folder, options);
    });
}
