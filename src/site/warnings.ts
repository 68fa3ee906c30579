import { trimSlashes } from "../config/compile.js";
import { compilePattern } from "../config/patterns.js";
import type { AreaConfig, SiteConfig } from "../config/schema.js";
import { type Mount, selectRules } from "../core/rules/rules.js";
import { describePrivateNames } from "./private-names.js";

/** What start-up found: sentences to print, and sentences that stop it since nothing could ever come of the rule. */
export interface Findings {
  readonly warnings: string[];
  readonly errors: string[];
}

/** Looks for rules that can never match, and for folders and documents that are named but not there. */
export async function inspectRules(config: SiteConfig, mounts: readonly Mount[]): Promise<Findings> {
  const findings: Findings = { warnings: [], errors: [] };
  for (const [index, mount] of mounts.entries()) {
    const written = config.mounts[index]!;
    const where = `mounts[${index}]`;
    const implied =
      written.kind === "app" && written.appShell === undefined ? { appShell: "/index.html" } : {};
    await inspectPlace(findings, mount, "", where, { ...implied, ...written });
    for (const [key, rules] of Object.entries(written.areas ?? {})) {
      const path = trimSlashes(key);
      const place = `${where}.areas[${JSON.stringify(key)}]`;
      if (await inspectArea(findings, mounts, mount, path, place)) {
        await inspectPlace(findings, mount, path, place, rules);
      }
    }
    await inspectHiding(findings, mounts, mount, index);
  }
  return findings;
}

/** False when the area can never match, so that its rules need no look. */
async function inspectArea(
  { warnings }: Findings,
  mounts: readonly Mount[],
  mount: Mount,
  path: string,
  place: string,
): Promise<boolean> {
  const full = joinPath(mount.at, path);
  const hiding = mounts.find(
    (other) => other !== mount && other.at.length > mount.at.length && isWithin(full, other.at),
  );
  if (hiding !== undefined) {
    warnings.push(
      `${place}: never matches, since the mount at /${hiding.at} answers everything below it; write the rules there.`,
    );
    return false;
  }
  const withheldBy = path === "" ? undefined : selectRules(mount, "").withheldBy(path);
  if (withheldBy !== undefined) {
    warnings.push(
      `${place}: never matches, since it is withheld (${withheldBy}); leave the area or the pattern out.`,
    );
    return false;
  }
  const found = await kindOf(mount, path);
  if (found !== "directory") {
    const what = found === "file" ? "is a file" : "does not exist";
    warnings.push(
      `${place}: ${path === "" ? "the folder" : path} ${what} in ${mount.source.name}; an area is a folder there.`,
    );
  }
  return true;
}

async function inspectPlace(
  { warnings, errors }: Findings,
  mount: Mount,
  area: string,
  place: string,
  rules: AreaConfig,
): Promise<void> {
  const documents: [key: string, path: string][] = Object.entries(rules.errorPages ?? {}).map(
    ([status, path]) => [`errorPages[${status}]`, path],
  );
  const shell = rules.appShell;
  if (typeof shell === "string") documents.push(["appShell", shell]);
  else if (shell) documents.push(["appShell", shell.file]);

  for (const [key, written] of documents) {
    const path = trimSlashes(written);
    const withheldBy = selectRules(mount, area).withheldBy(path);
    if (withheldBy !== undefined) {
      errors.push(
        `${place}.${key}: found "${written}", which is withheld (${withheldBy}) and so can never be sent; name another document.`,
      );
    } else if ((await kindOf(mount, path)) !== "file") {
      warnings.push(
        `${place}.${key}: there is no ${path} in ${mount.source.name}; until there is, ${key === "appShell" ? "deep links are not found" : "the built-in page is sent"}.`,
      );
    }
  }
  for (const except of typeof shell === "object" ? (shell.except ?? []) : []) {
    const path = trimSlashes(except);
    if (!isWithin(path, area) && !isWithin(area, path)) {
      warnings.push(
        `${place}.appShell.except: found "${except}", which never matches, since paths here begin with /${area}; write "/${area}${except}".`,
      );
    }
  }
  for (const pattern of rules.unlisted ?? []) {
    const what = describePrivateNames(compilePattern(pattern));
    if (what !== undefined) {
      warnings.push(
        `${place}.unlisted: found "${pattern}", which leaves ${what} out of listings and still sends them to anyone who knows a name; write withheld: ["${pattern}"] if nobody may have them.`,
      );
    }
  }
  for (const name of rules.defaultDocuments ?? []) {
    const withheldBy = selectRules(mount, area).withheldBy(joinPath(area, name));
    if (withheldBy !== undefined) {
      warnings.push(
        `${place}.defaultDocuments: found "${name}", which never answers, since it is withheld (${withheldBy}); leave it out.`,
      );
    }
  }
}

// A folder that lies where another mount answers can be reached by nobody.
async function inspectHiding(
  { warnings }: Findings,
  mounts: readonly Mount[],
  mount: Mount,
  index: number,
): Promise<void> {
  for (const other of mounts) {
    if (other === mount || other.at.length <= mount.at.length || !isWithin(other.at, mount.at)) continue;
    const path = mount.at === "" ? other.at : other.at.slice(mount.at.length + 1);
    if ((await kindOf(mount, path)) !== "absent") {
      warnings.push(
        `mounts[${index}]: ${path} in ${mount.source.name} cannot be reached, since the mount at /${other.at} answers there.`,
      );
    }
  }
}

async function kindOf(mount: Mount, path: string): Promise<"file" | "directory" | "absent"> {
  const found = await mount.source.open(path);
  if (found.kind === "file") found.file.close();
  return found.kind === "file" || found.kind === "directory" ? found.kind : "absent";
}

const joinPath = (a: string, b: string): string => (a === "" ? b : b === "" ? a : `${a}/${b}`);
const isWithin = (path: string, outer: string): boolean =>
  outer === "" || path === outer || path.startsWith(`${outer}/`);
