import { existsSync } from "node:fs";
import { resolve } from "node:path";
import { loadConfigFile, type ResponseRecord } from "../adapters/node.js";
import type { SiteConfig } from "../config/config-types.js";
import { defineSite, type SiteDefinition } from "../config/define.js";
import { SiteError } from "../config/site-error.js";
import { checkAwaited, checkSite } from "../site/arguments.js";
import type { Site } from "../site/site.js";
import { openLab } from "./server/open-lab.js";
import { Watch } from "./server/watch.js";

/** How a lab looks at the site of a running application. */
export interface AttachOptions {
  /** What the site was opened with: the path of its configuration file, or the configuration itself. */
  readonly config: string | SiteConfig | SiteDefinition;
  /** Where the application answers, such as "http://127.0.0.1:3000/": the page links to it. */
  readonly address?: string;
  /** The port of the page, on this machine alone; a free one when not given. */
  readonly port?: number;
  /** The file that holds the token of the page's address, so that a bookmark works; created if it does not exist. */
  readonly tokenFile?: string;
  /** The expectations file to write and run; expectations.yaml beside the configuration when not given. */
  readonly expectations?: string;
  /** Lets the page save the configuration and the expectations; default false. */
  readonly edit?: boolean;
}

/** A lab beside an application. */
export interface AttachedLab {
  /** The address of the page: the token in it lets in. */
  readonly url: string;
  /** Shows an answer among the requests: hand it to `nodeHandler` or `startServer` as `onResponse`, or call it from your own. */
  readonly onResponse: (record: ResponseRecord) => void;
  close(): Promise<void>;
}

/**
 * Opens a lab beside an application that serves a site: a page on this machine that shows how each answer of the site comes about, and its
 * requests as they come. Meant for development. Rejects with a SiteError for a configuration that cannot be used or a token file that cannot
 * be read, and with a StartError for a port that cannot be had.
 */
export async function attachLab(site: Site, options: AttachOptions): Promise<AttachedLab> {
  checkAwaited("attachLab", site);
  checkSite("attachLab", site);
  const { config, address, port = 0, tokenFile, expectations, edit = false } = options;
  const file = typeof config === "string" ? resolve(config) : undefined;
  if (file !== undefined && !existsSync(file))
    throw new SiteError([
      `attachLab: there is no configuration file ${JSON.stringify(config)}; name another one.`,
    ]);
  const load = async (): Promise<SiteDefinition> => {
    if (file !== undefined) return loadConfigFile(file);
    const given = config as SiteConfig | SiteDefinition;
    return "config" in given ? given : defineSite(given);
  };
  const watch = new Watch();
  const { url, close } = await openLab({
    load,
    folder: undefined,
    configFile: file,
    expectations,
    edit,
    port,
    tokenFile,
    address,
    watch,
    tell: (text) => process.emitWarning(text, "SiteWarning"),
  });
  return { url, close, onResponse: (record) => watch.note(record, site.mounts) };
}
