import { existsSync } from "node:fs";
import { resolve } from "node:path";
import type { Plugin, ResolvedConfig, ViteDevServer } from "vite";
import { describeOutcome } from "../adapters/log/outcome.js";
import { findConfigFile, loadConfigFile, type NodeHandler, nodeHandler } from "../adapters/node.js";
import type { SiteDefinition } from "../config/define.js";
import { SiteError } from "../config/site-error.js";
import type { Coding } from "../core/rules/codings.js";
import { formatCount, formatSize } from "../core/text/size.js";
import { openSite } from "../site/open.js";
import type { Site } from "../site/site.js";
import type { Severity } from "../survey/index.js";
import { type AssetFileNames, hashedNames } from "./hashed-names.js";
import { readProxies } from "./proxies.js";

/** What the plugin does. Paths are from Vite's root. */
export interface EpistyleOptions {
  /** The configuration that production serves by; the one epistyle.config file of Vite's root when not given. */
  readonly config?: string;
  /** After a build: codings that are written beside the files that get smaller by them, such as ["br", "gzip"]. */
  readonly prebuilt?: readonly Coding[];
  /** After a build: surveys what was built, and fails the build at a finding of this level or worse. */
  readonly survey?: Severity | "never";
  /** After a build: expectations files that must be true of what was built, in process. */
  readonly check?: readonly string[];
  /** After a build: seals what was built, and writes the seal to this file. */
  readonly seal?: string;
}

/**
 * A plugin for Vite. `vite preview` answers as production will: the same configuration, the same rules, over what was built. In `vite dev` the
 * same rules hold beside Vite's own transforms. After `vite build` it writes codings, surveys, checks and seals what
 * was built, as far as that is asked for, and fails the build where it must. It writes down which names the build made from content
 * (`.epistyle/fingerprints.txt` in the folder that is built), so that caching rules for `fingerprinted` files know them.
 */
export function epistyle(options: EpistyleOptions = {}): Plugin {
  let resolved: ResolvedConfig;
  let isWritten = false;
  const names = new Set<string>();
  const load = async (): Promise<SiteDefinition> => {
    const named = options.config === undefined ? undefined : resolve(resolved.root, options.config);
    if (named !== undefined && !existsSync(named))
      throw new SiteError([
        `epistyle({ config: ${JSON.stringify(options.config)} }): there is no such file in ${resolved.root}; create it, or name another one.`,
      ]);
    const file = named ?? (await findConfigFile(resolved.root));
    if (file === undefined)
      throw new SiteError([
        `epistyle: there is no epistyle.config.yaml, .json, .js or .mjs in ${resolved.root}; write one, or name it: epistyle({ config: "…" }).`,
      ]);
    return loadConfigFile(file);
  };
  return {
    name: "epistyle",
    // A preview says what production says, and nothing of other origins besides.
    config: ({ preview }) => (preview?.cors === undefined ? { preview: { cors: false } } : undefined),
    configResolved(config) {
      resolved = config;
    },
    async configureServer(server) {
      const definition = await load();
      restartWith(server, definition.file);
      const { serveBesideVite } = await import("./development.js");
      return serveBesideVite(server, definition, (site) => handle(site, resolved.logger));
    },
    async configurePreviewServer(server) {
      const site = await openSite(await load());
      for (const warning of site.warnings) resolved.logger.warn(warning);
      const handler = handle(site, resolved.logger);
      const isProxied = readProxies(server.config.preview.proxy);
      // Nothing of Vite's own answers besides: it would give out what the configuration withholds.
      server.middlewares.use((request, response, next) =>
        isProxied(request.url ?? "") ? next() : handler(request, response),
      );
    },
    writeBundle(output, bundle) {
      isWritten = true;
      // No visitor gets the files that a server is built from.
      if (resolved.build.ssr || this.environment?.config.consumer === "server") return;
      for (const name of hashedNames(bundle, output.assetFileNames as AssetFileNames)) names.add(name);
    },
    // Also called where a build failed: then what lies there is an earlier one's.
    closeBundle: {
      order: "post",
      sequential: true,
      async handler() {
        if (resolved.command !== "build" || !isWritten) return;
        isWritten = false;
        if (!resolved.build.ssr) {
          const { writeNames } = await import("./write-names.js");
          await writeNames(resolve(resolved.root, resolved.build.outDir), names);
          names.clear();
        }
        const failures = await lookOver(options, resolved, load).catch((error: unknown) => {
          if (resolved.build.watch && error instanceof SiteError) return [error.message];
          throw error;
        });
        if (failures.length === 0) return;
        const text = failures.join("\n\n");
        // Whoever watches goes on with the next change.
        if (resolved.build.watch) resolved.logger.error(text);
        else throw new SiteError([text]);
      },
    },
  };
}

// The rules are compiled when the server starts: with another configuration it starts again.
function restartWith({ watcher, restart, config }: ViteDevServer, file: string | undefined): void {
  if (file === undefined) return;
  const path = resolve(file);
  watcher.add(path);
  watcher.on("change", (changed) => {
    if (resolve(changed) !== path) return;
    config.logger.info(`${file} changed: the server starts again.`, { timestamp: true });
    restart().catch((error: Error) => config.logger.error(error.message));
  });
}

// The log of Vite names the file that answered, or the reason.
function handle(site: Site, logger: ResolvedConfig["logger"]): NodeHandler {
  return nodeHandler(site, {
    onResponse(record) {
      const { request, delivery } = record;
      const outcome = describeOutcome(record, site.mounts);
      logger.info(`${request.method} ${request.target} ${delivery.status} ${outcome}`, { timestamp: true });
    },
  });
}

async function lookOver(
  { prebuilt = [], survey, check = [], seal }: EpistyleOptions,
  { root, build, logger, cacheDir }: ResolvedConfig,
  load: () => Promise<SiteDefinition>,
): Promise<string[]> {
  const told = { info: (text: string) => logger.info(text), warn: (text: string) => logger.warn(text) };
  // Loaded only after a build.
  const { checkBuild, sealBuild, surveyBuild } = await import("./after-build.js");
  if (prebuilt.length > 0) {
    const { writeCodings } = await import("./write-codings.js");
    const { files, kept, savedBytes, missing } = await writeCodings(
      resolve(root, build.outDir),
      prebuilt,
      cacheDir,
    );
    for (const coding of missing)
      told.warn(`epistyle: this Node cannot make ${coding} (22.15 and later can); it is left out.`);
    const from = kept === 0 ? "" : `, ${formatCount(kept)} of them kept from an earlier build`;
    told.info(`${formatCount(files)} codings are written${from}: this saves ${formatSize(savedBytes)}.`);
  }
  if (survey === undefined && check.length === 0 && seal === undefined) return [];
  const definition = await load();
  const failures = survey === undefined ? [] : await surveyBuild(definition, survey, told);
  if (check.length > 0)
    failures.push(
      ...(await checkBuild(
        definition,
        check.map((file) => resolve(root, file)),
        told,
      )),
    );
  if (failures.length === 0 && seal !== undefined) await sealBuild(definition, resolve(root, seal), told);
  return failures;
}
