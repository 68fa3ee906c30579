import type { Command } from "commander";
import { SiteError } from "../config/problems.js";
import { formatCount, formatSize } from "../core/text/size.js";
import { chooseDefinition, inArgumentsWords } from "./definition.js";
import { openTerminal } from "./terminal.js";

interface SealOptions {
  readonly config?: string;
  readonly out: string;
}

export function addSeal(program: Command): void {
  program
    .command("seal")
    .summary("write down what a folder holds, to serve exactly that")
    .description(
      "Reads each file that may be served, and writes its size and digest to a seal file: run it at the end of a build. A server that " +
        "starts with the file serves these bytes and no others. Without FOLDER and --config it reads the one " +
        "epistyle.config.yaml, .json, .js or .mjs of this folder.",
    )
    .argument("[FOLDER]", "the folder that is sealed")
    .option("--config <FILE>", "seal the folders of this configuration")
    .option("--out <FILE>", "write to this file; one that is there is replaced", "seal.jsonl")
    .addHelpText(
      "after",
      `
Examples:
  epistyle seal ./public
  epistyle serve ./public --seal seal.jsonl`,
    )
    .action(async (folder: string | undefined, options: SealOptions) => {
      const { writeSeal } = await import("../adapters/node.js");
      const definition = await chooseDefinition(folder, options.config);
      const { files, bytes, warnings } = await writeSeal(definition, options.out).catch((error: unknown) => {
        throw folder !== undefined && error instanceof SiteError ? inArgumentsWords(error) : error;
      });
      const terminal = openTerminal(process.stdout);
      for (const warning of warnings) terminal.print(terminal.colors.yellow(`Warning: ${warning}`));
      const shown = `${formatCount(files)} ${files === 1 ? "file" : "files"}, ${formatSize(bytes)}`;
      const named = folder ?? (options.config === undefined ? "" : `--config ${options.config}`);
      const command = `epistyle serve ${named}${named === "" ? "" : " "}--seal ${options.out}`;
      terminal.print(`${options.out} is written: ${shown}. Serve exactly these with: ${command}`);
    });
}
