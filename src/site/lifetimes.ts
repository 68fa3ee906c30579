import { isFingerprinted } from "../core/rules/fingerprint.js";
import { type CachingRule, type Mount, selectRules } from "../core/rules/rules.js";
import { walkMount } from "./walk.js";

/** A copy that is fresh for longer than this is a long-lived one, in seconds. */
const LONG_SECONDS = 86_400;
/** How many names of a mount are looked at. */
const NAMES_AT_MOST = 5000;

/**
 * Looks for files whose copies are kept long though their names do not change with their content: when such a file changes,
 * visitors go on with the old one. A sentence for each caching rule that covers some.
 */
export async function inspectLifetimes(mount: Mount): Promise<string[]> {
  const found = new Map<CachingRule, string[]>();
  if (!hasLongRule(mount)) return [];
  let seen = 0;
  for await (const { path, kind } of walkMount(mount)) {
    if (++seen > NAMES_AT_MOST) break;
    if (kind === "directory") continue;
    const rules = selectRules(mount, path);
    const folded = rules.fold(path);
    const rule = rules.caching.find((one) => one.matches(folded, path));
    if (rule !== undefined && rule.lifetimeSeconds > LONG_SECONDS && !isFingerprinted(path)) {
      found.set(rule, [...(found.get(rule) ?? []), path]);
    }
  }
  return [...found].map(([rule, paths]) => {
    const [shown] = paths.sort((a, b) => Number(/\.html?$/i.test(b)) - Number(/\.html?$/i.test(a)));
    const more = paths.length === 1 ? "" : ` and ${paths.length - 1} more`;
    return `${rule.label}: keeps files without a fingerprint in their names for ${Math.round(rule.lifetimeSeconds / 86_400)} days, ${shown}${more} among them; a change to them shows that much later. Write files: fingerprinted, or a shorter maxAge.`;
  });
}

function hasLongRule(mount: Mount): boolean {
  return mount.allRules.some(({ caching }) => caching.some((rule) => rule.lifetimeSeconds > LONG_SECONDS));
}
