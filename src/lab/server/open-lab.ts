import { existsSync, readFileSync, unwatchFile, watchFile } from "node:fs";
import { resolve } from "node:path";
import { type FSWatcher, watch } from "chokidar";
import { shorten } from "../../config/config-file.js";
import type { SiteDefinition } from "../../config/define.js";
import type { RunningLab } from "./lab-server.js";
import { startLab } from "./lab-server.js";
import { TextFile } from "./text-file.js";
import { readToken } from "./token.js";
import type { Watch } from "./watch.js";
import { draftConfiguration, expectationsBeside, Workspace } from "./workspace.js";

export interface OpenLabOptions {
  /** The configuration in force: read again each time. */
  readonly load: () => Promise<SiteDefinition>;
  /** The folder that is served without a configuration; undefined where there is one. */
  readonly folder: string | undefined;
  /** The configuration's file, as it was found. */
  readonly configFile: string | undefined;
  /** The expectations file, where one is named. */
  readonly expectations: string | undefined;
  readonly edit: boolean;
  readonly port: number;
  /** A file with the token that lets in, so that the address stays the same; a new token for each start when not given. */
  readonly tokenFile?: string | undefined;
  /** Where the site itself answers. */
  readonly address: string | undefined;
  readonly watch: Watch;
  /** Called when the configuration is another one. */
  readonly onReload?: () => Promise<void>;
  /** Told what is in the way of a new configuration, in words. */
  readonly tell: (text: string) => void;
}

/** How often the configuration file's time is looked at, in milliseconds. */
const INTERVAL_MS = 300;

/** Opens a lab for a site. Rejects with a SiteError or a StartError. */
export async function openLab(
  options: OpenLabOptions,
): Promise<RunningLab & { readonly workspace: Workspace }> {
  const { load, folder, configFile, edit, port, address, watch: requests, tell } = options;
  const isText = configFile !== undefined && /\.(?:ya?ml|json)$/.test(configFile);
  const beside = configFile ?? resolve("epistyle.config.yaml");
  const isNew = configFile === undefined && !existsSync(beside);
  const workspace = await Workspace.open({
    load,
    file: isText || isNew ? await TextFile.open(resolve(beside)) : undefined,
    draft: folder === undefined ? undefined : draftConfiguration(folder),
    expectations: await TextFile.open(resolve(options.expectations ?? expectationsBeside(beside))),
    canSave: edit,
    address,
    about: configFile === undefined ? (folder ?? ".") : shorten(resolve(configFile)),
    schema: readSchema(),
  });
  const token = options.tokenFile === undefined ? undefined : await readToken(options.tokenFile);
  const lab = await startLab({ workspace, watch: requests, port, token });
  const reload = async (): Promise<void> => {
    try {
      await workspace.reload();
      await options.onReload?.();
    } catch (error) {
      tell(`The lab keeps the old configuration: ${(error as Error).message}`);
    }
    requests.changed();
  };
  const files = watchFiles(workspace.folders, () => {
    workspace.forgetNames();
    requests.changed();
  });
  const watched = configFile === undefined ? undefined : resolve(configFile);
  if (watched !== undefined) watchFile(watched, { interval: INTERVAL_MS, persistent: false }, reload);
  return {
    ...lab,
    workspace,
    close() {
      if (watched !== undefined) unwatchFile(watched, reload);
      return Promise.all([lab.close(), files.close()]).then(() => {});
    },
  };
}

/** What changes within so long is told once, in milliseconds. */
const QUIET_MS = 200;

// What is shown follows the files, too: whoever builds again sees what came of it.
function watchFiles(folders: readonly string[], tell: () => void): FSWatcher {
  const watcher = watch([...folders], {
    ignoreInitial: true,
    ignored: /[/\\](?:node_modules|\.git)(?:[/\\]|$)/,
  });
  let quiet: NodeJS.Timeout | undefined;
  watcher.on("all", () => {
    clearTimeout(quiet);
    quiet = setTimeout(tell, QUIET_MS);
    quiet.unref();
  });
  // What cannot be watched is shown as it is when somebody asks.
  watcher.on("error", () => {});
  return watcher;
}

function readSchema(): object {
  const path = new URL(import.meta.resolve("epistyle/schema/config.json"));
  return JSON.parse(readFileSync(path, "utf8")) as object;
}
