import type { Fields } from "../../core/fields/fields.js";
import { decideMediaType } from "../../core/media-types/media-type.js";
import { collectHeaders } from "../../core/represent/profile.js";
import { findRule, rulesForNames } from "../../core/rules/file-rules.js";
import { selectRules } from "../../core/rules/mount.js";
import { isFingerprinted } from "../../core/rules/names.js";
import type { CompiledSite } from "../../core/site.js";

/** What the rules that go by the path say of one, as a text: two paths with the same are answered alike, as far as these rules go. */
export async function describeOutcome({ mounts }: CompiledSite, path: string): Promise<string> {
  const match = mounts.find(path);
  if (match === undefined) return "none";
  const inside = match.length === 0 ? path : path.slice(match.length + 1);
  const rules = selectRules(match.value, inside);
  const { names, source } = match.value;
  const fingerprinted = rulesForNames(rules).length > 0 && (await isFingerprinted(names, source, inside));
  const download = findRule(rules.downloads, inside, fingerprinted);
  return [
    match.value.at,
    rules.area,
    rules.withheld.by(inside) === undefined ? "" : "withheld",
    rules.notListed.by(inside) === undefined ? "" : "not listed",
    write(findRule(rules.caching, inside, fingerprinted)?.fields),
    write(collectHeaders(inside, rules, fingerprinted)),
    download === undefined ? "" : `download ${download.name ?? ""}`,
    decideMediaType(inside, rules.mediaTypes)?.type ?? "",
    rules.charset,
    JSON.stringify(rules.crossOrigin?.allowed ?? ""),
    write(rules.noVarySearch),
    rules.whenMissing,
    rules.digests ? "digests" : "",
  ].join("\n");
}

function write(fields: Fields | undefined): string {
  return [...(fields ?? [])].map(({ name, value }) => `${name}: ${value}`).join("; ");
}
