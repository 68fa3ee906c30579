import { resolve } from "node:path";
import { openTerminal, printHeading } from "../adapters/log/terminal.js";
import { findConfigFile, startServer } from "../adapters/node.js";
import { openLab } from "../lab/server/open-lab.js";
import { Watch } from "../lab/server/watch.js";
import { openSite } from "../site/open.js";
import { reloadable } from "../site/reloadable.js";
import { chooseDefinition } from "./definition.js";

export interface LabOptions {
  readonly config?: string;
  readonly expectations?: string;
  readonly edit?: true;
  readonly port: number;
  readonly tokenFile?: string;
  readonly sitePort: number;
}

/** Serves a site and a lab beside it, until it is stopped. */
export async function runLab(folder: string | undefined, options: LabOptions): Promise<void> {
  const { config, expectations, edit = false, port, sitePort, tokenFile } = options;
  const load = () => chooseDefinition(folder, config);
  const configFile = folder === undefined ? (config ?? (await findConfigFile(process.cwd()))) : undefined;
  const watch = new Watch();
  const site = reloadable(await openSite(await load()), async () => openSite(await load()));
  const terminal = openTerminal(process.stdout);
  printHeading(terminal, "epistyle lab");
  const width = Math.max(...site.mounts.map(({ at }) => at.length));
  for (const { at, source } of site.mounts) terminal.print(`${at.padEnd(width)}  ${source}`);
  for (const warning of site.warnings) terminal.print(terminal.colors.yellow(`Warning: ${warning}`));
  const server = await startServer(site, {
    host: "127.0.0.1",
    port: sitePort,
    onResponse: (record) => watch.note(record, site.mounts),
  });
  const lab = await openLab({
    load,
    folder,
    configFile: configFile === undefined ? undefined : resolve(configFile),
    expectations,
    edit,
    port,
    tokenFile,
    address: server.url,
    watch,
    // The site goes along with the lab, so that what is visited is what is shown.
    onReload: () => site.reload(),
    tell: (text) => terminal.print(terminal.colors.yellow(text)),
  }).catch(async (error: unknown) => {
    await server.close(0);
    throw error;
  });
  terminal.print(`\nThe site  ${server.url}`);
  // What is printed may be kept in a log.
  terminal.print(
    tokenFile === undefined
      ? `The lab   ${lab.url}`
      : `The lab   ${new URL(lab.url).origin}/TOKEN/, with the token in ${tokenFile}`,
  );
  terminal.print(edit ? "It may save." : "It cannot save; --edit allows that.");
  await new Promise<void>((done) => {
    process.once("SIGINT", done);
    process.once("SIGTERM", done);
  });
  await lab.close();
  await server.close(1);
}
