import { posix, resolve, sep } from "node:path";
import { fileURLToPath } from "node:url";
import type { Connect, ResolvedConfig, ViteDevServer } from "vite";
import { readPlan } from "../adapters/in-process.js";
import type { NodeHandler } from "../adapters/node.js";
import type { MountConfig, SiteConfig } from "../config/config-types.js";
import type { SiteDefinition } from "../config/define.js";
import type { Answer, ResponsePlan } from "../core/answer/plan.js";
import { Memory } from "../core/memory/memory.js";
import { collectHeaders } from "../core/represent/profile.js";
import type { SiteRequest } from "../core/request/request.js";
import { formatPath } from "../core/request/target.js";
import { findPlace, type Place } from "../core/rules/place.js";
import type { FileSource } from "../core/source.js";
import { unescapeText } from "../core/text/unescape.js";
import { encodeUtf8 } from "../core/text/utf8.js";
import { assembleSite, compileSite } from "../site/compile-site.js";
import type { Site } from "../site/site.js";
import { folderSource, openFolderStores } from "../sources/folder.js";
import { developmentFiles } from "./development-files.js";
import { readProxies } from "./proxies.js";

/** How answers are carried out and logged. */
type Handle = (site: Site) => NodeHandler;

/**
 * Lets the configuration answer beside Vite's own transforms. Mounts that Vite does not build are answered before Vite. Of those that it
 * builds, Vite answers what it transforms and its public folder, with the header fields of the rules; the rest is answered by the rules:
 * documents, the app shell, addresses that moved, error pages. Gives what to add behind Vite's own middlewares.
 */
export async function serveBesideVite(
  server: ViteDevServer,
  definition: SiteDefinition,
  handle: Handle,
): Promise<() => void> {
  const { config: vite, middlewares } = server;
  const files = openDevelopmentFiles(vite);
  const isVites = makeTest(definition.config, vite);
  const { compiled, warnings } = await compileSite(
    { ...definition, config: inDevelopment(definition.config, isVites, files) },
    {},
  );
  const site = assembleSite(
    compiled,
    warnings.map(({ text }) => text),
  );
  const ours = handle(site);
  const place = (target: string): Place | undefined => {
    const found = findPlace(compiled.mounts, { method: "GET", target, headers: {} }, undefined);
    return found.ok ? found.value : undefined;
  };
  const isBuilt = (at: Place): boolean => at.mount.source === files;

  // Vite gives out all that is in its public folder, and its documents, by several addresses.
  const namesWithheld = async (address: string): Promise<boolean> => {
    for (const path of listPaths(address, vite)) {
      const at = place(vite.base + formatPath(path));
      if (at === undefined || !isBuilt(at) || at.rules.withheld.by(at.path) === undefined) continue;
      if (await isFile(files, at.path)) return true;
    }
    return false;
  };

  const isProxied = readProxies(vite.server.proxy);
  const mayPass = ({ rules: { whenMissing, origins } }: Place): boolean =>
    vite.server.middlewareMode !== false ||
    (whenMissing === "pass" && origins.whenMissing.by === "developer");
  middlewares.use(async (request, response, next) => {
    const address = addressOf(request);
    const at = place(address);
    if (isProxied(address)) return next();
    // Production has an application behind the site only where somebody says so.
    if (at !== undefined && !isBuilt(at))
      return mayPass(at) ? ours(request, response, next) : ours(request, response);
    if (await namesWithheld(address)) return ours(request, response);
    if (at === undefined) return next();
    // Nothing that Vite makes while it is developed has a fingerprint.
    for (const { name, value } of collectHeaders(at.path, at.rules, false)) response.setHeader(name, value);
    next();
  });
  return () => {
    const behind = handle(transformDocuments(site, server));
    middlewares.use((request, response, next) => {
      const { url } = request;
      const address = addressOf(request);
      const at = place(address);
      if (at !== undefined && !isBuilt(at)) return next();
      // Vite has led the address to a document by its own rules.
      request.url = address;
      // Behind Vite's own server stands no application: only its fallback, which answers what production does not.
      if (!vite.server.middlewareMode) return behind(request, response);
      behind(request, response, (error) => {
        if (url !== undefined) request.url = url;
        next(error);
      });
    });
  };
}

const addressOf = ({ originalUrl, url = "/" }: Connect.IncomingMessage): string => originalUrl ?? url;

/** The paths in the built site that Vite's own server may mean by an address: by itself, below its root, or as a path of this machine. */
function listPaths(address: string, { root, publicDir, base }: ResolvedConfig): string[] {
  const written = unescapeText(address.replace(/[?#].*/s, ""));
  const path = posix.normalize(written.startsWith(base) ? written.slice(base.length) : written.slice(1));
  const full = path.startsWith("@fs/") ? resolve("/", path.slice(4)) : resolve(root, path);
  const inside = [publicDir, root]
    .filter((folder) => folder !== "" && full.startsWith(resolve(folder) + sep))
    .map((folder) =>
      full
        .slice(resolve(folder).length + 1)
        .split(sep)
        .join("/"),
    );
  return [path, ...inside];
}

function openDevelopmentFiles({ root, publicDir }: ResolvedConfig): FileSource {
  const stores = openFolderStores(new Memory());
  const open = (folder: string): FileSource =>
    folderSource(folder, { name: folder, links: "inside", stores, local: false });
  const publicFiles = publicDir === "" ? undefined : open(publicDir);
  return developmentFiles(open(root), publicFiles);
}

// Mounts keep their places, so that messages name them as the configuration does.
function inDevelopment(
  config: SiteConfig,
  isVites: (mount: MountConfig) => boolean,
  source: FileSource,
): SiteConfig {
  const mounts = config.mounts.map((mount) => {
    if (!isVites(mount)) return mount;
    const { folder: _folder, earlierReleases: _earlier, links: _links, ...rules } = mount;
    // What nothing answers is Vite's, or the application's, as in production.
    return { ...rules, source };
  });
  return { ...config, mounts };
}

function makeTest(
  { base: start }: SiteConfig,
  { root, build, base }: ResolvedConfig,
): (mount: MountConfig) => boolean {
  const from = start === undefined ? root : toPath(start);
  const built = resolve(root, build.outDir);
  return ({ at = "/", folder }) => {
    const full = folder === undefined ? "" : resolve(from, folder);
    // At Vite's own base nothing else can be: it would hide what is developed.
    return full === built || full.startsWith(built + sep) || at.replace(/\/?$/, "/") === base;
  };
}

function toPath(base: string | URL): string {
  const text = String(base);
  return text.startsWith("file:") ? fileURLToPath(new URL(".", text)) : text;
}

async function isFile(source: FileSource, path: string): Promise<boolean> {
  const found = await source.open(path);
  if (found.kind === "file") found.file.close();
  if (found.kind === "directory") found.directory.close();
  return found.kind === "file";
}

/** Fields that would be wrong of a document that Vite transformed, or that hold on to it while it changes. */
const NOT_IN_DEVELOPMENT = ["ETag", "Last-Modified", "Accept-Ranges", "Cache-Control", "Content-Length"];
/** A copy is neither asked about nor cut into parts: a transform makes another document each time. */
const NOT_ASKED = /^(?:if-|range$|accept-encoding$)/;

// Documents go through Vite's transforms: its client is in them, and what plugins add.
function transformDocuments(site: Site, server: ViteDevServer): Site {
  return {
    ...site,
    async respond(request) {
      const headers = Object.fromEntries(
        Object.entries(request.headers).filter(([name]) => !NOT_ASKED.test(name)),
      );
      const answer = await site.respond({ ...request, headers });
      return isDocument(answer) ? transform(answer, request, server) : answer;
    },
  };
}

// A page that is built in is left alone, and an error page of the rules is a file of theirs.
function isDocument(answer: Answer): answer is ResponsePlan {
  return (
    answer.kind !== "pass" &&
    (answer.file !== undefined || answer.body.kind === "file") &&
    /^text\/html\b/.test(answer.fields.get("content-type") ?? "")
  );
}

async function transform(
  plan: ResponsePlan,
  { method, target }: SiteRequest,
  server: ViteDevServer,
): Promise<ResponsePlan> {
  const written = new TextDecoder().decode(await readPlan(plan));
  let fields = plan.fields;
  for (const name of NOT_IN_DEVELOPMENT) fields = fields.remove(name);
  // The policy of `protect` is made from the document as it is built: it would stop Vite's client.
  for (const name of ["Content-Security-Policy", "Content-Security-Policy-Report-Only"]) {
    const line = [...fields].find((field) => field.name === name);
    if (/(?:^|\.)protect$/.test(line?.rule ?? "")) fields = fields.remove(name);
  }
  fields = fields.append("Cache-Control", "no-store", "in development");
  if (method === "HEAD") return { ...plan, fields };
  const bytes = encodeUtf8(await server.transformIndexHtml(target.replace(/[?#].*/s, ""), written));
  fields = fields.append("Content-Length", String(bytes.length), "the length of the transformed document");
  return { ...plan, fields, body: { kind: "bytes", bytes } };
}
