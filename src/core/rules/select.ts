import type { Trace } from "../explain/trace.js";
import type { CompiledSite, Mount } from "./rules.js";

/** A mount, and the rest of the path inside it. */
export interface MountedPath {
  readonly mount: Mount;
  readonly path: string;
}

/** The mount with the longest prefix of the path, on whole segments; undefined when none has one. */
export function selectMount(
  site: CompiledSite,
  path: string,
  trace: Trace | undefined,
): MountedPath | undefined {
  const match = site.mounts.find(path);
  if (match === undefined) {
    trace?.push({ stage: "mount", at: undefined, known: site.mountList.map((mount) => `/${mount.at}`) });
    return undefined;
  }
  const mount = match.value;
  const inside = match.length === 0 ? path : path.slice(match.length + 1);
  trace?.push({ stage: "mount", at: `/${mount.at}`, source: mount.source.name, path: inside });
  return { mount, path: inside };
}
