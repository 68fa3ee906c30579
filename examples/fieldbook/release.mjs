// Builds a release, and makes it the present one. Whatever the checks of the build refuse never gets there.
import { cpSync, mkdirSync, readdirSync, renameSync, rmSync, symlinkSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { build } from "vite";

const here = (path) => join(import.meta.dirname, path);
/** The present one, and the one before it. */
const KEPT = 2;

export async function release() {
  // The plugin surveys, checks and seals; a failure throws.
  await build({ configFile: here("vite.config.mjs"), logLevel: "warn" });
  mkdirSync(here("builds"), { recursive: true });
  const numbers = readdirSync(here("builds"))
    .map(Number)
    .sort((a, b) => a - b);
  const number = (numbers.at(-1) ?? 0) + 1;
  cpSync(here("dist"), here(`builds/${number}`), { recursive: true });
  // In one step: no request is answered from two releases.
  rmSync(here("next"), { force: true });
  symlinkSync(`builds/${number}`, here("next"));
  renameSync(here("next"), here("live"));
  for (const old of numbers.slice(0, Math.max(0, numbers.length + 1 - KEPT)))
    rmSync(here(`builds/${old}`), { recursive: true });
  return number;
}

if (import.meta.url === pathToFileURL(process.argv[1]).href)
  console.log(`builds/${await release()} is the present release.`);
