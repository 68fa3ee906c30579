import { rmSync } from "node:fs";
import { mkdtemp } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, expect } from "vitest";
import { READ_FIELDS } from "../src/core/keep/kept-answers.js";
import { Memory } from "../src/core/memory/memory.js";
import type { SiteRequest } from "../src/core/request/request.js";
import type { Mount } from "../src/core/rules/mount.js";
import { PrefixTree } from "../src/core/rules/prefix-tree.js";
import {
  type FileSource,
  type Found,
  type OpenedDirectory,
  type OpenedFile,
  openSite as openRealSite,
  releasePlan,
  type Site,
  type SiteConfig,
} from "../src/index.js";
import { assembleSite, compileSite } from "../src/site/compile-site.js";
import { foldHeaderNames } from "../src/site/header-names.js";
import { keeperOf } from "../src/site/keeper.js";
import { sealNow } from "../src/site/seal.js";
import { Follower } from "../src/site/store/follow.js";
import { publishMounts } from "../src/site/store/publish.js";
import { followStore } from "../src/site/store/stored-site.js";
import { openFolder } from "../src/sources/open-folder.js";
import { FolderStore } from "../src/sources/store/folder-store.js";

/** What was opened in a test: each has to be closed once, whatever the answer was. */
let opened: { path: string; closed: number }[] = [];

/** A source that counts how often each file that it opens is closed. */
export function countingSource(source: FileSource): FileSource {
  return {
    name: source.name,
    ...(source.snapshot !== undefined && { snapshot: async () => countingSource(await source.snapshot!()) }),
    open: (path) => {
      const found = source.open(path);
      return found instanceof Promise ? found.then((one) => count(path, one)) : count(path, found);
    },
    ...(source.look !== undefined && { look: (path: string, found: Found) => source.look!(path, found) }),
    diagnose: (path) => source.diagnose(path),
  };
}

function count(path: string, found: Found): Found {
  if (found.kind !== "file" && found.kind !== "directory") return found;
  const entry = { path, closed: 0 };
  opened.push(entry);
  if (found.kind === "directory") {
    const { directory } = found;
    const counted: OpenedDirectory = {
      version: directory.version,
      list: (atMost) => directory.list(atMost),
      stat: (name) => directory.stat(name),
      isInPlace: () => directory.isInPlace(),
      close() {
        entry.closed++;
        directory.close();
      },
    };
    return { ...found, directory: counted };
  }
  const { file } = found;
  const counted: OpenedFile = {
    metadata: file.metadata,
    read: (offset, length, into) => file.read(offset, length, into),
    digest: () => file.digest(),
    ...(file.isUnchanged !== undefined && { isUnchanged: () => file.isUnchanged!() }),
    close() {
      entry.closed++;
      file.close();
    },
  };
  return { ...found, file: counted };
}

/**
 * Opens a site whose sources, folders among them, are counted. EPISTYLE_SOURCES=sealed has them sealed, =stored publishes them to a
 * release store first, =proved has each request answered with what is kept for it: the same tables are to hold.
 */
export async function openSite(config: SiteConfig): Promise<Site> {
  const mounts = await Promise.all(
    config.mounts.map(async (mount, index) => {
      const { folder, source, ...rules } = mount;
      if (source !== undefined) return { ...rules, source: countingSource(source) };
      const found = await openFolder(folder!, {
        where: `mounts[${index}].folder`,
        base: config.base,
        links: mount.links ?? "inside",
        memory: new Memory(),
      });
      return typeof found === "string" ? mount : { ...rules, source: countingSource(found) };
    }),
  );
  const counted = { ...config, mounts };
  if (process.env.EPISTYLE_SOURCES === "sealed") return openSealed(counted);
  if (process.env.EPISTYLE_SOURCES === "stored") return openStored(counted);
  return process.env.EPISTYLE_SOURCES === "proved" ? openProved(counted) : openRealSite(counted);
}

// Sources of the developer's own are sealed here, too.
async function openSealed(config: SiteConfig): Promise<Site> {
  const { compiled, warnings: told } = await compileSite(config, {});
  const warnings = told.map(({ text }) => text);
  const sealed = new PrefixTree<Mount>();
  for (const mount of (await sealNow([...compiled.mounts.values()], compiled.pause)).mounts)
    sealed.set(mount.at, mount);
  return assembleSite({ ...compiled, mounts: sealed }, warnings);
}

/** Folders of stores: sites that several tests share read from them to the end. */
const stores: string[] = [];
process.on("exit", () => {
  for (const folder of stores) rmSync(folder, { recursive: true, force: true });
});

// The files come from a release store, to which the sealed mounts were published.
async function openStored(config: SiteConfig): Promise<Site> {
  const { compiled, warnings: told } = await compileSite(config, {});
  const warnings = told.map(({ text }) => text);
  const { mounts } = await sealNow([...compiled.mounts.values()], compiled.pause, { pieces: true });
  const folder = await mkdtemp(join(tmpdir(), "epistyle-store-"));
  stores.push(folder);
  const store = new FolderStore(folder, "store");
  await publishMounts(store, mounts);
  const written = config.mounts.map(({ source: _source, ...rules }) => ({ ...rules, folder: "." }));
  const follower = new Follower(store, undefined, () => {});
  const site = await followStore(
    async () => ({ config: { ...config, mounts: written }, file: undefined }),
    follower,
  );
  // It need not look for other releases.
  site.close();
  // What the folders would be warned of.
  return Object.defineProperty(site, "warnings", { value: warnings });
}

// Every request is answered with what is kept for it, where it is kept at all.
async function openProved(config: SiteConfig): Promise<Site> {
  const { compiled, warnings: told } = await compileSite(config, {});
  const warnings = told.map(({ text }) => text);
  // What was written a moment ago would not be kept.
  const site = assembleSite({ ...compiled, now: () => Date.now() + 10_000 }, warnings);
  const keeper = keeperOf(site)!;
  const real = { ...keeper };
  keeper.respond = async (key, request) => {
    // What was looked at in this turn of the event loop is not looked at again.
    await new Promise(setImmediate);
    for (let i = 0; i < 2; i++) releasePlan(await real.respond(key, request));
    const values = READ_FIELDS.map((name) => request.headers[name]);
    const isPlain = values.every((value) => value === undefined || typeof value === "string");
    return (isPlain ? real.recall(key, values as string[]) : undefined) ?? real.respond(key, request);
  };
  const respond = site.respond;
  return Object.assign(site, {
    respond: (request: SiteRequest) => {
      const {
        method,
        target,
        headers,
        strippedPrefix,
        mayPass = false,
        isSecure = false,
      } = foldHeaderNames(request);
      if (method !== "GET" && method !== "HEAD") return respond(request);
      return keeper.respond({ method, target, strippedPrefix, mayPass, isSecure }, { ...request, headers });
    },
  });
}

// A body that is on its way when its test ends gets a moment to be let go of.
/** Demands that what was opened in a test was closed once. */
export async function checkClosed(): Promise<void> {
  const all = opened;
  opened = [];
  await expect.poll(() => all.filter(({ closed }) => closed !== 1), { interval: 20 }).toEqual([]);
}

afterEach(checkClosed);
