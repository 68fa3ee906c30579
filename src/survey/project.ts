import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { EXPOSURES } from "../config/exposures.js";
import type { Mount } from "../core/rules/mount.js";
import { readJson } from "../reading/json.js";
import type { SurveyContext, SurveyedFolder } from "./survey-context.js";

const PROJECT_FILES = EXPOSURES.find(({ code }) => code === "project-file")!.names!;
/** Where builds put what is to be served. */
const BUILT = ["dist", "build", "public", "out", "site", "_site", "www"];
const SOURCES = /^(?:src|lib|app|server|test|tests|node_modules|vendor)$/;

/** A project's own folder is served, with all that it is made from. */
export async function checkProject(
  context: SurveyContext,
  { mount, path, files, folders }: SurveyedFolder,
  hasDependencies: boolean,
): Promise<void> {
  if (path !== "") return;
  const names = files.map((file) => file.path.toLowerCase());
  const project = names.find((name) => PROJECT_FILES.test(name) && !name.endsWith(".config.js"));
  if (project === undefined) return;
  const isWhole =
    hasDependencies ||
    folders.some((name) => SOURCES.test(name)) ||
    names.some((name) => /^(?:server|app|main|index)\.[cm]?[jt]s$/.test(name));
  if (!isWhole) return;
  const built = await findBuilt(mount, folders);
  context.report(
    "project-root",
    { mount, path },
    `It is a whole project (${project}): everybody can download its source, its configuration and its dependencies. Links and contents of its files were not looked at.`,
    built === undefined
      ? "Put the files for visitors into a separate folder, such as ./public, and serve that one."
      : `folder: ${join(mount.source.name, built)}`,
  );
}

/** The folder that a build wrote: one with a page in it. What is called public may be a source of the build. */
async function findBuilt(mount: Mount, folders: readonly string[]): Promise<string | undefined> {
  for (const name of BUILT.filter((one) => folders.includes(one))) {
    const found = await mount.source.open(`${name}/index.html`);
    if (found.kind === "file") found.file.close();
    if (found.kind === "directory") found.directory.close();
    if (found.kind === "file") return name;
  }
  return undefined;
}

/** A project whose build was never made: it says how, and nothing is there to be served. */
export async function checkBuild(
  context: SurveyContext,
  folder: string,
  { mount, path, files }: SurveyedFolder,
): Promise<void> {
  if (path !== "" || files.some((file) => /\.html?$/i.test(file.path))) return;
  // A whole project is told of as that.
  if (context.findings.some(({ code }) => code === "project-root")) return;
  if (!files.some((file) => file.path === "package.json")) return;
  try {
    const read = readJson(await readFile(join(folder, "package.json"), "utf8"));
    const scripts = read.ok ? (read.value as { scripts?: { build?: unknown } } | null)?.scripts : undefined;
    if (typeof scripts?.build !== "string") return;
  } catch {
    return;
  }
  context.report(
    "not-built",
    { mount, path },
    "It is a project with a build, but there is no page in it yet.",
    "npm run build, then serve its output folder",
  );
}
