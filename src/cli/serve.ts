import { stat } from "node:fs/promises";
import { type Command, InvalidArgumentError, Option } from "commander";
import { type RunningServer, startServer } from "../adapters/node.js";
import { SiteError } from "../config/problems.js";
import { formatPath } from "../core/request/target.js";
import { openSite } from "../site/open.js";
import { openReloadable, type ReloadableSite } from "../site/reloadable.js";
import type { Site } from "../site/site.js";
import { chooseDefinition, inArgumentsWords } from "./definition.js";
import { LOG_FORMS, type LogForm, makeLogger } from "./log.js";
import { reloadOnChange } from "./reload.js";
import { openTerminal, printHeading, type Terminal } from "./terminal.js";

export interface ListenOptions {
  readonly host: string;
  readonly port: number;
  readonly log: LogForm;
}

interface ServeOptions extends ListenOptions {
  readonly config?: string;
  readonly kind?: "pages" | "app" | "archive";
  readonly listing?: true;
  readonly seal?: true | string;
}

export function addServe(program: Command): void {
  const command = program
    .command("serve")
    .summary("serve a folder, or what a configuration says")
    .description(
      "Serves a folder, or what a configuration file says, and logs a line for each request with the file that answered. " +
        "Without FOLDER and --config it reads the one epistyle.config.yaml, .json, .js or .mjs of this folder.",
    )
    .argument("[FOLDER]", "the folder whose files are served")
    .option("--config <FILE>", "read the configuration from this file")
    .addOption(
      new Option("--kind <K>", "starting set of rules for FOLDER").choices(["pages", "app", "archive"]),
    )
    .option(
      "--seal [FILE]",
      "serve the files as they are now, whatever becomes of them, or as this seal file says",
    )
    .option("--listing", "list the directories of FOLDER that have no default document");
  addListenOptions(command)
    .addHelpText(
      "after",
      `
Examples:
  epistyle serve ./public               one folder, on http://127.0.0.1:8080/
  epistyle serve ./public --seal        the files as they are now: nothing is looked at again
  epistyle serve --port 0               what ./epistyle.config.yaml says, on a free port
  epistyle serve ./public --log json    a JSON object a line on standard output; the rest on standard error

A configuration file that changes is read again, but for a sealed site; SIGHUP opens any site anew. What cannot be opened changes
nothing, and what is wrong is printed.
Stop it with Ctrl-C: responses under way are finished first.`,
    )
    .action(async (folder: string | undefined, options: ServeOptions) => {
      if (folder === undefined && options.config === undefined) await refuseFolder(options.seal);
      let file: string | undefined;
      const open = async (): Promise<Site> => {
        const definition = await chooseDefinition(folder, options.config, options);
        file = definition.file;
        return openSite(definition, { seal: options.seal ?? false });
      };
      const site = await openReloadable(open).catch((error: unknown) => {
        throw folder !== undefined && error instanceof SiteError ? inArgumentsWords(error) : error;
      });
      await listen(site, options, "epistyle serve", {
        reloads: { site, file: options.seal === undefined ? file : undefined },
      });
    });
}

/** The options that every command which listens has. */
export function addListenOptions(command: Command): Command {
  return command
    .option("--host <HOST>", "address to listen on; 0.0.0.0 is every address of this machine", "127.0.0.1")
    .option("--port <N>", "port to listen on; 0 takes a free one", parsePort, 8080)
    .addOption(new Option("--log <FORM>", "how requests are logged").choices(LOG_FORMS).default("pretty"));
}

// An option with a value that may be left out takes the folder that stands behind it.
async function refuseFolder(seal: ServeOptions["seal"]): Promise<void> {
  if (typeof seal !== "string" || !(await stat(seal).catch(() => undefined))?.isDirectory()) return;
  throw new SiteError([
    `--seal: found ${JSON.stringify(seal)}, which is a folder; write the folder first: epistyle serve ${seal} --seal.`,
  ]);
}

export interface ListenExtras {
  /** The site that is opened anew on SIGHUP, and when this file changes, where there is one. */
  readonly reloads?: { readonly site: ReloadableSite; readonly file: string | undefined };
  readonly announce?: (server: RunningServer, terminal: Terminal) => void;
}

/** Starts a server, says where it listens, and stops it on SIGINT or SIGTERM. Resolves when it has stopped. */
export async function listen(
  site: Site,
  { host, port, log }: ListenOptions,
  title: string,
  { reloads, announce }: ListenExtras = {},
): Promise<void> {
  const output = openTerminal(process.stdout);
  // Where standard output is a log for programs, what is meant for people goes to standard error.
  const people = log === "json" || log === "combined" ? openTerminal(process.stderr) : output;
  const stopReloading =
    reloads &&
    reloadOnChange(reloads.site, reloads.file, (text, isNew) => {
      people.print(text);
      if (isNew) printSite(people, reloads.site);
    });
  const onResponse = await makeLogger(log, output, () => site.mounts);
  const server = await startServer(site, { host, port, ...(onResponse && { onResponse }) });

  printHeading(people, title);
  printSite(people, site);
  announce?.(server, people);
  people.print(`\nListening on ${addressOf(server, site)}`);

  await signalled();
  people.print("Stopping: responses under way are finished first. A second Ctrl-C stops at once.");
  process.once("SIGINT", () => process.exit(130));
  stopReloading?.();
  await server.close();
}

// An address that answers: without a mount at the root, the first one's.
function addressOf({ url }: RunningServer, { mounts }: Site): string {
  const [first] = mounts;
  return first === undefined || mounts.some(({ at }) => at === "/")
    ? url
    : `${url}${formatPath(first.at.slice(1))}/`;
}

function printSite(terminal: Terminal, site: Site): void {
  const width = Math.max(...site.mounts.map(({ at }) => at.length));
  for (const { at, source } of site.mounts) terminal.print(`${at.padEnd(width)}  ${source}`);
  for (const warning of site.warnings) terminal.print(terminal.colors.yellow(`Warning: ${warning}`));
}

function signalled(): Promise<void> {
  return new Promise((done) => {
    process.once("SIGINT", done);
    process.once("SIGTERM", done);
  });
}

function parsePort(text: string): number {
  const port = Number(text);
  if (!/^\d+$/.test(text) || port > 65535) {
    throw new InvalidArgumentError("A port is a whole number from 0 to 65535; 0 takes a free one.");
  }
  return port;
}
