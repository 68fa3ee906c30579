import { stat } from "node:fs/promises";
import { type Command, Option } from "commander";
import { openTerminal, type Terminal } from "../adapters/log/terminal.js";
import type { SiteDefinition } from "../config/define.js";
import { SiteError } from "../config/site-error.js";
import { countOf, formatSize } from "../core/text/size.js";
import { openSite } from "../site/open.js";
import type { LostAddresses } from "../survey/lost/find-lost.js";
import { chooseDefinition } from "./definition.js";
import { printLost } from "./lost-report.js";

interface SealOptions {
  readonly config?: string;
  readonly out: string;
  readonly failOn: "lost" | "never";
}

export function addSeal(program: Command): void {
  program
    .command("seal")
    .summary("record the content of a folder, to serve exactly that")
    .description(
      "Reads each file that may be served, and writes its size and digest to a seal file. Run it at the end of a build. A server that " +
        "starts with the seal file serves exactly these bytes. Without FOLDER and --config it reads the one " +
        "epistyle.config.yaml, .json, .js or .mjs of this folder.",
    )
    .argument("[FOLDER]", "the folder to seal")
    .option("-c, --config <FILE>", "seal the folders of this configuration")
    .option("--out <FILE>", "write to this file; an existing one is replaced", "seal.jsonl")
    .addOption(
      new Option(
        "--fail-on <WHAT>",
        "lost: if addresses of the old seal file no longer answer, write nothing and end with status 1",
      )
        .choices(["lost", "never"])
        .default("never"),
    )
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
      const terminal = openTerminal(process.stdout);
      const lost = await findLostSince(options.out, definition, terminal);
      if (lost !== undefined && lost.addresses.length > 0) {
        printLost(terminal, lost);
        if (options.failOn === "lost") {
          terminal.print(`${options.out} was not changed.`);
          process.exitCode = 1;
          return;
        }
        terminal.print();
      }
      const { files, bytes, warnings } = await writeSeal(definition, options.out);
      for (const warning of warnings) terminal.print(terminal.colors.yellow(`Warning: ${warning}`));
      const shown = `${countOf(files)}, ${formatSize(bytes)}`;
      const named = folder ?? (options.config === undefined ? "" : `--config ${options.config}`);
      const command = `epistyle serve ${named}${named === "" ? "" : " "}--seal ${options.out}`;
      terminal.print(`${options.out} is written: ${shown}. Serve exactly these with: ${command}`);
    });
}

// What the seal file that is there lists is the earlier release.
async function findLostSince(
  out: string,
  definition: SiteDefinition,
  terminal: Terminal,
): Promise<LostAddresses | undefined> {
  if ((await stat(out).catch(() => undefined)) === undefined) return undefined;
  const [{ findLost }, { releaseOf, openRelease }] = await Promise.all([
    import("../survey/lost/find-lost.js"),
    import("../survey/lost/release.js"),
  ]);
  try {
    const earlier = await openRelease(out);
    return await findLost(earlier, await releaseOf("what is sealed now", await openSite(definition)));
  } catch (error) {
    if (!(error instanceof SiteError)) throw error;
    terminal.print(terminal.colors.yellow(`Warning: ${error.message} It is replaced.`));
    return undefined;
  }
}
