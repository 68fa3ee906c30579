import cluster from "node:cluster";
import { EventEmitter } from "node:events";
import { stat } from "node:fs/promises";
import { resolve } from "node:path";
import { type Command, InvalidArgumentError, Option } from "commander";
import type { SiteDefinition } from "../config/define.js";
import { SiteError } from "../config/site-error.js";
import { parseSize } from "../config/sizes.js";
import { openSite } from "../site/open.js";
import { openReloadable } from "../site/reloadable.js";
import type { Site } from "../site/site.js";
import { chooseDefinition, chooseRules } from "./definition.js";
import { addListenOptions, addServerOptions, type ListenOptions, listen } from "./listen.js";

interface ServeOptions extends ListenOptions {
  readonly config?: string;
  readonly kind?: "pages" | "app" | "archive";
  readonly listing?: true;
  readonly seal?: true | string;
  readonly store?: string;
  readonly cache?: string;
  readonly cacheSize?: number;
  readonly lab?: true;
  readonly edit?: true;
}

function describeServe(program: Command): Command {
  const command = program
    .command("serve")
    .summary("serve a folder, or the mounts of a configuration")
    .description(
      "Serves a folder, or the mounts of a configuration file, and logs a line for each request with the file that answered. " +
        "Without FOLDER and --config it reads the one epistyle.config.yaml, .json, .js or .mjs of this folder.",
    )
    .argument("[FOLDER]", "the folder whose files are served")
    .option("-c, --config <FILE>", "read the configuration from this file")
    .addOption(
      new Option("--kind <K>", "starting set of rules for FOLDER").choices(["pages", "app", "archive"]),
    )
    .option(
      "--seal [FILE]",
      "serve the files as they are now, even if they change later, or as this seal file says",
    )
    .option("--store <PLACE>", "serve the present release of this store: a folder, or s3://BUCKET/PREFIX")
    .option("--cache <DIR>", "keep files of the store in this folder")
    .addOption(
      new Option("--cache-size <SIZE>", "the most that the folder takes")
        .argParser(parseCacheSize)
        .default(DEFAULT_CACHE_BYTES, "2GB"),
    )
    .option("--lab", "also open a lab, which shows each request as it arrives; on this machine only")
    .option("--edit", "let the lab save the configuration")
    .option("--listing", "list the folders of FOLDER without a default document");
  return addServerOptions(addListenOptions(command)).addHelpText(
    "after",
    `
Examples:
  epistyle serve ./public               one folder, on http://127.0.0.1:8080/
  epistyle serve ./public --seal        the files as they are now: later changes do not count
  epistyle serve --store ./store        the release that was published there last
  epistyle serve --port 0               the site of ./epistyle.config.yaml, on a free port
  epistyle serve ./public --log json    one JSON object per line on standard output; the rest on standard error
  epistyle serve --host 0.0.0.0 --health /health --drain 5s     behind a load balancer

Without --port and --host the environment variables PORT and HOST count. A socket that a service manager hands over
(LISTEN_FDS) is used instead of a port.

A site of a --store switches within seconds when another release becomes present; SIGHUP looks at once.
If the configuration file changes, it is read again, unless the site is sealed; SIGHUP opens any site again. If the new site cannot be
opened, the old one stays, and a message says why.
Stop it with Ctrl-C: responses in progress finish first.`,
  );
}

export function addServe(program: Command): void {
  describeServe(program).action(async (folder: string | undefined, options: ServeOptions) => {
    if (folder === undefined && options.config === undefined) await refuseFolder(options.seal);
    if (options.store !== undefined) checkStore(folder, options);
    else if (options.cache !== undefined)
      throw new SiteError(["--cache: found it without --store; it keeps files of a store: leave it out."]);
    const { workers = 1, socket, metrics } = options;
    if (options.lab) checkLab(options);
    else if (options.edit)
      throw new SiteError(["--edit: found it without --lab; it lets the lab save: write --lab --edit."]);
    if (workers > 1 && cluster.isPrimary) {
      if (typeof metrics === "string")
        throw new SiteError([
          `--metrics: found ${JSON.stringify(metrics)}, but each worker counts separately; give a port, such as 9100.`,
        ]);
      const { runWorkers } = await import("./workers.js");
      const stopWithinMs = (options.drain ?? 0) + (options.grace ?? 10_000) + SLACK_MS;
      await runWorkers({ count: workers, socket, metrics, stopWithinMs });
      return;
    }
    if (options.store !== undefined) return serveStore(options, options.store);
    let file: string | undefined;
    const open = async (): Promise<Site> => {
      const definition = await chooseDefinition(folder, options.config, options);
      file = definition.file;
      return openSite(definition, { seal: options.seal ?? false });
    };
    const site = await openReloadable(open);
    const reloads = { site, file: options.seal === undefined ? file : undefined };
    if (!options.lab) return listen(site, options, "epistyle serve", { reloads });
    const { besideServer } = await import("./lab-beside.js");
    const load = () => chooseDefinition(folder, options.config, options);
    const beside = besideServer({ site, load, folder, file, edit: options.edit === true });
    await listen(site, options, "epistyle serve", { reloads, ...beside });
    await beside.close();
  });
}

async function serveStore(options: ServeOptions, store: string): Promise<void> {
  const { openStoredSite } = await import("../site/store/stored-site.js");
  const { config, cache, cacheSize = DEFAULT_CACHE_BYTES } = options;
  const notices = new EventEmitter<{ notice: [string] }>();
  let file: string | undefined;
  const define = async (): Promise<SiteDefinition | undefined> => {
    const rules = await chooseRules(config);
    file = rules?.file;
    return rules;
  };
  const site = await openStoredSite(define, {
    store,
    cache: cache === undefined ? undefined : { folder: resolve(cache), bytes: cacheSize },
    onNotice(text) {
      // Before it listens, nobody else tells of it.
      if (!notices.emit("notice", text)) process.stderr.write(`${text}\n`);
    },
  });
  await listen(site, options, "epistyle serve", { reloads: { site, file }, notices });
  site.close();
}

/** What a cache on disk takes where nothing is said, in bytes. */
const DEFAULT_CACHE_BYTES = 2e9;

function parseCacheSize(text: string): number {
  const bytes = parseSize(text);
  if (bytes === undefined || bytes === 0)
    throw new InvalidArgumentError("Write a size such as 500MB or 2GB.");
  return bytes;
}

// What is served is in the store: the rules come from a configuration.
function checkStore(folder: string | undefined, { seal, kind, listing, lab }: ServeOptions): void {
  const [found] = [
    ...(folder === undefined ? [] : [`the folder ${folder}`]),
    ...Object.entries({ seal, kind, listing, lab }).flatMap(([name, value]) =>
      value === undefined ? [] : [`--${name}`],
    ),
  ];
  if (found === undefined) return;
  throw new SiteError([
    `--store: found ${found} too; the files are those of the store, sealed, and the rules those of a configuration: leave it out, or write --config FILE.`,
  ]);
}

/** How much longer than it may take a worker is waited for when it stops, in milliseconds. */
const SLACK_MS = 3000;

// What shows a site from inside is for whoever sits at the machine.
function checkLab({ host, seal, workers = 1, socket }: ServeOptions): void {
  if (!/^(?:127\.\d+\.\d+\.\d+|localhost|::1)$/.test(host) || socket !== undefined)
    throw new SiteError([
      `--lab: found ${socket === undefined ? `--host ${host}` : "--socket"}; a lab is only for a site that listens on this machine: leave the host out, or write --host 127.0.0.1.`,
    ]);
  if (seal !== undefined || workers > 1)
    throw new SiteError([
      `--lab: found ${seal === undefined ? "--workers" : "--seal"} too, but a lab looks at one process and at live files: leave it out.`,
    ]);
}

// An option with a value that may be left out takes the folder that is behind it.
async function refuseFolder(seal: ServeOptions["seal"]): Promise<void> {
  if (typeof seal !== "string" || !(await stat(seal).catch(() => undefined))?.isDirectory()) return;
  throw new SiteError([
    `--seal: found ${JSON.stringify(seal)}, which is a folder; write the folder first: epistyle serve ${seal} --seal.`,
  ]);
}
