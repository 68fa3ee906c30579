import type { Command } from "commander";

import type { LabOptions } from "./lab-run.js";
import { parsePort } from "./listen-values.js";

export function addLab(program: Command): void {
  program
    .command("lab")
    .summary("look at a site from inside, in the browser")
    .description(
      "Opens a page on this machine that shows a site from inside: its files as visitors get them, how each answer comes about, which " +
        "addresses a change of the configuration would change, and the requests as they come. The site itself answers beside it. " +
        "Without FOLDER and --config it reads the one epistyle.config.yaml, .json, .js or .mjs of this folder.",
    )
    .argument("[FOLDER]", "the folder whose files are looked at")
    .option("-c, --config <FILE>", "read the configuration from this file")
    .option(
      "--expectations <FILE>",
      "the expectations file to write and run (expectations.yaml beside the configuration)",
    )
    .option("--edit", "let the page save the configuration and the expectations")
    .option("-p, --port <N>", "port of the page; 0 takes a free one", parsePort, 0)
    .option("--site-port <N>", "port of the site itself; 0 takes a free one", parsePort, 0)
    .addHelpText(
      "after",
      `
Examples:
  epistyle lab ./public                 look at one folder
  epistyle lab --edit                   and save what you change in ./epistyle.config.yaml
  epistyle serve --lab                  a lab beside a site that is served

Only this machine can open it, with the token that stands in the address. Stop it with Ctrl-C.`,
    )
    .action(async (folder: string | undefined, options: LabOptions) => {
      const { runLab } = await import("./lab-run.js");
      await runLab(folder, options);
    });
}
