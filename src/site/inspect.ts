import type { RulesConfig, SiteConfig } from "../config/config-types.js";
import { KINDS } from "../config/kinds.js";
import { isWithin, trimSlashes } from "../config/paths.js";
import type { Finding, InspectedPlace } from "../config/rule.js";
import { RULE_NAMES, RULES } from "../config/rules.js";
import { lookAt } from "../core/resolve/look.js";
import { readNames } from "../core/resolve/read-directory.js";
import type { Mount } from "../core/rules/mount.js";
import { joinPath } from "../core/text/path.js";

/** Looks for rules that can never match, and for folders and documents that are named but not there. */
export async function inspectSite(config: SiteConfig, mounts: readonly Mount[]): Promise<Finding[]> {
  const findings: Finding[] = [];
  for (const [index, mount] of mounts.entries()) {
    const written = config.mounts[index]!;
    const where = `mounts[${index}]`;
    // A kind's document is named by nobody else.
    const { appShell } = KINDS[written.kind ?? "pages"];
    findings.push(...(await inspectPlace({ appShell, ...written }, { mount, area: "", where })));
    for (const [key, rules] of Object.entries(written.areas ?? {})) {
      const place = { mount, area: trimSlashes(key), where: `${where}.areas[${JSON.stringify(key)}]` };
      const useless = findUselessArea(mounts, place);
      if (useless === undefined) findings.push(...(await inspectArea(rules, place)));
      else findings.push(warn(place.where, useless));
    }
    findings.push(...(await inspectHiding(mounts, mount, where)));
    if (written.folder !== undefined && (await readNames(mount, ""))?.length === 0)
      findings.push(warn(where, `the folder ${mount.source.name} is empty; build it, or put files into it.`));
  }
  for (const mount of mounts) {
    for (const name of RULE_NAMES)
      findings.push(...(await orNothing(async () => RULES[name].inspectMount?.(mount) ?? [])));
  }
  return findings;
}

// A source of the developer's own that rejects is met by the requests.
async function orNothing(look: () => Promise<readonly Finding[]>): Promise<readonly Finding[]> {
  try {
    return await look();
  } catch {
    return [];
  }
}

const warn = (key: string, text: string): Finding => ({ severity: "warning", text: `${key}: ${text}`, key });

/** What every rule has to say of a place where it is said. */
async function inspectPlace(rules: RulesConfig, place: InspectedPlace): Promise<Finding[]> {
  const findings: Finding[] = [];
  for (const name of RULE_NAMES) {
    const { inspect } = RULES[name];
    if (inspect !== undefined && rules[name] !== undefined)
      findings.push(...(await orNothing(async () => inspect(rules[name] as never, place))));
  }
  return findings;
}

async function inspectArea(rules: RulesConfig, place: InspectedPlace): Promise<Finding[]> {
  const { mount, area, where } = place;
  const found = await lookAt(mount.source, area);
  if (found === "directory") return inspectPlace(rules, place);
  const what = found === "file" ? "is a file" : "does not exist";
  const shown = area === "" ? "the folder" : area;
  const prefix = `${mount.at}/`;
  const inside =
    mount.at !== "" && area.startsWith(prefix)
      ? ` Its path starts inside the mount: write /${area.slice(prefix.length)}.`
      : "";
  const text = `${shown} ${what} in ${mount.source.name}; an area is a folder there.${inside}`;
  return [warn(where, text), ...(await inspectPlace(rules, place))];
}

/** Why an area can never match, so that its rules need no look; undefined when it can. */
function findUselessArea(mounts: readonly Mount[], { mount, area }: InspectedPlace): string | undefined {
  const full = joinPath(mount.at, area);
  const hiding = mounts.find(
    (other) => other !== mount && other.at.length > mount.at.length && isWithin(full, other.at),
  );
  if (hiding !== undefined) {
    return `never matches, because the mount at /${hiding.at} answers everything below it; write the rules there.`;
  }
  const withheldBy = area === "" ? undefined : mount.areas.find("")!.value.withheld.by(area);
  return withheldBy === undefined
    ? undefined
    : `never matches, because it is withheld (${withheldBy}); leave the area or the pattern out.`;
}

// A folder that lies where another mount answers can be reached by nobody.
async function inspectHiding(mounts: readonly Mount[], mount: Mount, where: string): Promise<Finding[]> {
  const findings: Finding[] = [];
  for (const other of mounts) {
    if (other === mount || other.at.length <= mount.at.length || !isWithin(other.at, mount.at)) continue;
    const path = mount.at === "" ? other.at : other.at.slice(mount.at.length + 1);
    if ((await lookAt(mount.source, path)) === "absent") continue;
    findings.push(
      warn(
        where,
        `${path} in ${mount.source.name} cannot be reached, because the mount at /${other.at} answers there.`,
      ),
    );
  }
  return findings;
}
