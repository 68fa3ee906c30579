import { fileURLToPath } from "node:url";
import type { Command } from "commander";
import type { Terminal } from "../adapters/log/terminal.js";
import { loadConfigFile, type RunningServer } from "../adapters/node.js";
import { openSite } from "../site/open.js";
import { addListenOptions, type ListenOptions, listen } from "./listen.js";

const CONFIG = fileURLToPath(new URL("../../demo/epistyle.config.yaml", import.meta.url));

/** Addresses of the demo that are worth a look. */
const WORTH_OPENING = [
  ["", "the field guide's front page"],
  ["archive/2026/", "the archive: a folder to browse"],
  ["no-such-bird", "the site's page for a missing address"],
] as const;

export function addDemo(program: Command): void {
  addListenOptions(
    program
      .command("demo")
      .summary("serve the demo site, the Larkholm Bird Observatory")
      .description(
        "Serves the demo site that comes with the package: the field guide of a made-up bird observatory, and its archive. " +
          "In a copy of the repository, npm run demo serves an application and an API beside them.",
      ),
  ).action(async (options: ListenOptions) => {
    const site = await openSite(await loadConfigFile(CONFIG));
    const announce = (server: RunningServer, terminal: Terminal): void => {
      terminal.print("\nWorth opening:");
      for (const [path, what] of WORTH_OPENING)
        terminal.print(`  ${(server.url + path).padEnd(40)}  ${what}`);
    };
    await listen(site, options, "Larkholm Bird Observatory, the demo of epistyle", { announce });
  });
}
