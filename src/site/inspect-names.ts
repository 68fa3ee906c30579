import type { Pause } from "../core/listing/order.js";
import { mediaTypeByName } from "../core/media-types/media-type.js";
import { walkMount } from "../core/resolve/walk.js";
import { findRule } from "../core/rules/file-rules.js";
import { type Mount, selectRules } from "../core/rules/mount.js";
import { isFingerprinted } from "../core/rules/names.js";
import { readTokens } from "../reading/builds/token.js";
import { isLoadedByPages } from "../reading/contents/kinds.js";
import { makeRests } from "../reading/slices.js";

/** How many names of a mount are looked at. */
const NAMES_AT_MOST = 2000;

/** Files that a build named from their content, and that browsers ask for again and again, because no rule says more: one sentence. */
export async function inspectNames(mount: Mount, pause: Pause): Promise<string[]> {
  // Where a rule is for all of them, none is left.
  if (mount.areas.values().every(({ caching }) => caching.some(({ asksNames }) => asksNames))) return [];
  const found: string[] = [];
  let seen = 0;
  const source = (await mount.source.snapshot?.()) ?? mount.source;
  const rest = makeRests(pause);
  const options = { sizes: false, atMost: NAMES_AT_MOST, rest };
  for await (const { path, kind } of walkMount({ ...mount, source }, options)) {
    await rest();
    if (++seen > NAMES_AT_MOST) break;
    if (kind === "directory") continue;
    const { mediaTypes, caching } = selectRules(mount, path);
    if (!isLoadedByPages(mediaTypeByName(path, mediaTypes))) continue;
    // A plain name needs no look.
    if (readTokens(path.slice(path.lastIndexOf("/") + 1)).length === 0) continue;
    if (findRule(caching, path, true) === undefined && (await isFingerprinted(mount.names, source, path)))
      found.push(path);
  }
  const [first] = found;
  // A single one may be anything.
  if (first === undefined || found.length === 1) return [];
  return [
    `The mount at /${mount.at}: ${found.length} files have names made from the content, and no caching rule (among them ${first}), so browsers ask for them each time; write caching: [{ files: fingerprinted, policy: immutable }].`,
  ];
}
