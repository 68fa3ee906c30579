import { afterEach, expect } from "vitest";
import { Memory } from "../src/core/memory/memory.js";
import { type FileSource, type Found, type OpenedDirectory, type OpenedFile, openSite as openRealSite, type Site, type SiteConfig } from "../src/index.js";
import { openFolder } from "../src/sources/open-folder.js";

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
      list: () => directory.list(),
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
    close() {
      entry.closed++;
      file.close();
    },
  };
  return { ...found, file: counted };
}

/** Opens a site whose sources, folders among them, are counted. */
export async function openSite(config: SiteConfig): Promise<Site> {
  const mounts = await Promise.all(
    config.mounts.map(async (mount, index) => {
      const { folder, source, ...rules } = mount;
      if (source !== undefined) return { ...rules, source: countingSource(source) };
      const found = await openFolder(folder!, { where: `mounts[${index}].folder`, base: config.base, links: mount.links ?? "inside", memory: new Memory() });
      return typeof found === "string" ? mount : { ...rules, source: countingSource(found) };
    }),
  );
  return openRealSite({ ...config, mounts });
}

// A body that is on its way when its test ends gets a moment to be let go of.
afterEach(async () => {
  const all = opened;
  opened = [];
  await expect.poll(() => all.filter(({ closed }) => closed !== 1), { timeout: 3000, interval: 20 }).toEqual([]);
});
