import { spawnSync } from "node:child_process";
import { readdir, readFile, stat } from "node:fs/promises";
import { basename, dirname, extname, join, relative, resolve } from "node:path";
import { pathToFileURL } from "node:url";
import { suggestName } from "../core/text/suggest.js";
import type { SiteDefinition } from "./define.js";
import { checkPath } from "./found.js";
import { formatProblem, validate } from "./problems.js";
import { fileSchema, siteSchema } from "./schema.js";
import { SiteError } from "./site-error.js";

const ENDINGS = /^\.(?:ya?ml|json|[mc]?js|m?ts)$/;
const CONFIG_NAMES = ["js", "mjs", "json", "yaml"].map((ext) => `epistyle.config.${ext}`);

/**
 * Reads a configuration file: YAML, JSON, or a module whose default export is the configuration. Folders in it are relative
 * to the file. Rejects with a SiteError that names the file and, for YAML and JSON, line and column.
 */
export async function loadConfigFile(path: string): Promise<SiteDefinition> {
  checkPath("loadConfigFile", path, 'loadConfigFile("epistyle.config.yaml")');
  const full = resolve(path);
  const file = shorten(full);
  const extension = extname(full);
  if (!ENDINGS.test(extension)) {
    const isFolder = (await stat(full).catch(() => undefined))?.isDirectory() === true;
    throw new SiteError([
      isFolder
        ? `${file}: this is a folder; name the configuration file in it.`
        : `${file}: a configuration is a .yaml, .json, .js, .mjs, .cjs, .ts or .mts file; give it one of these endings.`,
    ]);
  }
  const text = await readText(full, file);
  if (/ts$/.test(extension) && !runsTypeScript())
    throw new SiteError([
      `${file}: this Node (${process.version}) cannot run TypeScript; use Node 22.18 or later, or write it as .mjs.`,
    ]);
  if (/[jt]s$/.test(extension)) return loadModule(full, file);
  // Loaded when a file is read: most starts are in code.
  const { parseWritten, validateWritten } = await import("./document.js");
  const { $schema: _, ...config } = validateWritten(parseWritten(text, file), fileSchema);
  return { config: { ...config, base: dirname(full) }, file };
}

/** The one configuration file of a folder; undefined when there is none. Rejects when there are several. */
export async function findConfigFile(folder: string): Promise<string | undefined> {
  const names = await readdir(folder);
  const found = CONFIG_NAMES.filter((name) => names.includes(name));
  if (found.length > 1) {
    throw new SiteError([
      `${shorten(folder) || "This folder"} holds ${found.join(" and ")}; keep one, or name it with --config.`,
    ]);
  }
  const stray = names.find((name) => name.startsWith("epistyle.conf") && !found.includes(name));
  if (found.length === 0 && stray !== undefined) {
    throw new SiteError([
      `Found ${stray}, which has another name than the configuration must have; rename it to ${suggestName(stray, CONFIG_NAMES) ?? "epistyle.config.yaml"}.`,
    ]);
  }
  return found[0] === undefined ? undefined : join(folder, found[0]);
}

async function readText(full: string, file: string): Promise<string> {
  try {
    return await readFile(full, "utf8");
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const siblings = await readdir(dirname(full)).catch(() => []);
    const near = suggestName(basename(full), siblings);
    if (code === "ENOENT") {
      throw new SiteError([
        `${file}: there is no such configuration file${near === undefined ? "; create it, or name another with --config." : `; did you mean ${near}?`}`,
      ]);
    }
    if (code === "EISDIR")
      throw new SiteError([`${file}: this is a folder; name the configuration file inside it.`]);
    throw new SiteError([`${file}: the configuration file cannot be read (${code}); check its permissions.`]);
  }
}

// The platform tells the line of what it cannot parse on standard error alone, and only when it runs the file itself.
function findSyntaxError(error: unknown, full: string): string | undefined {
  if (!(error instanceof SyntaxError) || !/\.[cm]?js$/.test(full)) return undefined;
  const { stderr } = spawnSync(process.execPath, ["--check", full], { encoding: "utf8", timeout: 10_000 });
  return /:(\d+)\n/.exec(stderr ?? "")?.[1];
}

async function loadModule(full: string, file: string): Promise<SiteDefinition> {
  // The time in the address makes a changed file a new module.
  const { mtimeMs } = await stat(full);
  let module: { default?: unknown };
  try {
    module = await import(`${pathToFileURL(full).href}?changed=${mtimeMs}`);
  } catch (error) {
    const { message, stack = "" } = error as Error;
    // What cannot be parsed has its line at the beginning of the stack, and what throws has it further down.
    const lines = [...stack.matchAll(/file:\/\/\S*?\/([^/\s?]+)(?:\?\S*?)?:(\d+)/g)];
    const line = lines.find(([, name]) => name === basename(full))?.[2] ?? findSyntaxError(error, full);
    const at = line === undefined ? file : `${file}:${line}`;
    const hint = /module is not defined/.test(message)
      ? " Write export default { … } instead of module.exports, or name the file .cjs."
      : "";
    throw new SiteError([`${at}: the module could not be loaded: ${message.replace(/\.?$/, ".")}${hint}`]);
  }
  if (module.default === undefined) {
    throw new SiteError([
      `${file}: the module has no default export; write export default { mounts: [ … ] }.`,
    ]);
  }
  const exported = module.default as { config?: unknown };
  const written =
    typeof exported === "object" && exported !== null && "config" in exported ? exported.config : exported;
  const result = validate(siteSchema, written);
  if (!result.ok) throw new SiteError(result.problems.map(formatProblem), file);
  return { config: { base: dirname(full), ...result.value }, file };
}

/** A path as a person in this folder would write it. */
export function shorten(full: string): string {
  const short = relative(process.cwd(), full);
  return short.startsWith("..") && short.split("/").length > 3 ? full : short;
}

// Node 22.18 and later take the types out by themselves; not every Node was built so.
function runsTypeScript(): boolean {
  const { typescript } = process.features as { typescript?: unknown };
  return typescript !== undefined && typescript !== false;
}
