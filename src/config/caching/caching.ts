import * as z from "zod";
import { walkMount } from "../../core/resolve/walk.js";
import { type CachingRule, findRule } from "../../core/rules/file-rules.js";
import { type Mount, selectRules } from "../../core/rules/mount.js";
import { isFingerprinted } from "../../core/rules/names.js";
import { defineRule, type Finding } from "../rule.js";
import { coversFiles } from "../shadowed.js";
import { duration, files, reject } from "../values.js";
import { cachingCompiler } from "./compile.js";

const policyGroup = z.strictObject({
  maxAge: duration.optional().describe("How long a copy stays fresh (max-age)."),
  sharedMaxAge: duration.optional().describe("How long a copy in a shared cache stays fresh (s-maxage)."),
  staleWhileRevalidate: duration
    .optional()
    .describe("How long a stale copy may be used while a new one is fetched."),
  staleIfError: duration.optional().describe("How long a stale copy may be used when the server fails."),
  mustRevalidate: z.boolean().optional().describe("A stale copy must be checked before it is used."),
  immutable: z.boolean().optional().describe("A fresh copy is not checked again, not even on reload."),
  private: z.boolean().optional().describe("Only the browser may keep a copy."),
  noTransform: z.boolean().optional().describe("No proxy may change the bytes."),
});

const policy = z.union([z.enum(["immutable", "revalidate", "no-store"]), policyGroup]).check((payload) => {
  const { value } = payload;
  if (typeof value !== "object") return;
  if (Object.values(value).every((one) => one === undefined || one === false))
    reject(payload, 'a policy says something: write policy: revalidate, or policy: { maxAge: "10m" }');
  else if (value.private && value.sharedMaxAge !== undefined)
    reject(payload, "shared caches keep no private copy: leave out private or sharedMaxAge");
});

const schema = z.array(
  z
    .strictObject({
      files,
      policy,
      cdn: policy
        .optional()
        .describe("Another lifetime for content delivery networks (CDN-Cache-Control, RFC 9213)."),
    })
    .meta({ example: "{ files: fingerprinted, policy: immutable }" }),
);

export const caching = defineRule({
  ...cachingCompiler,
  description:
    "How long copies stay fresh. The first rule that matches a file decides; without one, copies are checked each time.",
  example: "[{ files: fingerprinted, policy: immutable }]",
  scope: "mount",
  schema,
  explain: (rules) =>
    rules.map(({ files: shown, fields }) => `${shown}: ${fields.get("Cache-Control")}`).join("; "),
  inspect(rules, { where }) {
    return rules.flatMap(({ files: shown }, index): Finding[] => {
      const first = rules.findIndex((other, at) => at < index && coversFiles(other.files, shown));
      if (first < 0) return [];
      const key = `${where}.caching[${index}]`;
      const text = `${key} (${[shown].flat().join(", ")}): never applies, because ${where}.caching[${first}] (${[rules[first]!.files].flat().join(", ")}) comes first and matches the same files; put it before that rule, or leave it out.`;
      return [{ severity: "warning", key, text }];
    });
  },
  inspectMount: inspectLifetimes,
});

/** A copy that is fresh for longer than this is a long-lived one, in seconds. */
const LONG_SECONDS = 86_400;
/** How many names of a mount are looked at. */
const NAMES_AT_MOST = 5000;

// Files whose copies are kept long though their names do not change with their content: when such a file changes, visitors go
// on with the old one.
async function inspectLifetimes(mount: Mount): Promise<Finding[]> {
  const isLong = ({ lifetimeSeconds }: CachingRule): boolean => lifetimeSeconds > LONG_SECONDS;
  if (!mount.areas.values().some((rules) => rules.caching.some(isLong))) return [];
  const found = new Map<CachingRule, string[]>();
  let seen = 0;
  const source = (await mount.source.snapshot?.()) ?? mount.source;
  for await (const { path, kind } of walkMount(
    { ...mount, source },
    { sizes: false, atMost: NAMES_AT_MOST },
  )) {
    if (++seen > NAMES_AT_MOST) break;
    if (kind === "directory") continue;
    const fingerprinted = await isFingerprinted(mount.names, source, path);
    const rule = findRule(selectRules(mount, path).caching, path, fingerprinted);
    if (rule === undefined || !isLong(rule) || fingerprinted) continue;
    found.set(rule, [...(found.get(rule) ?? []), path]);
  }
  return [...found].map(([rule, paths]) => ({
    severity: "warning",
    text: describeLifetime(rule, paths),
    key: rule.rule,
    isOfFiles: true,
  }));
}

function describeLifetime({ label, lifetimeSeconds }: CachingRule, paths: readonly string[]): string {
  const [shown] = paths.toSorted((a, b) => Number(/\.html?$/i.test(b)) - Number(/\.html?$/i.test(a)));
  const more = paths.length === 1 ? "" : ` and ${paths.length - 1} more`;
  return `${label}: keeps files without a fingerprint in their names for ${Math.round(lifetimeSeconds / 86_400)} days, among them ${shown}${more}; visitors see a change that much later. Write files: fingerprinted, or a shorter maxAge; if the build does make these names from the content, say so with fingerprints.`;
}
