// What the two README commands have in common: packages, a build, and a browser, each only when it is not there yet.
import { execFileSync, spawnSync } from "node:child_process";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

export const root = join(dirname(fileURLToPath(import.meta.url)), "..");
export const CHROMIUM = "/usr/bin/chromium";

/** Runs a command in the project's folder; ends this process with its status when it fails. */
export function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { cwd: root, stdio: "inherit", ...options });
  if (error) throw error;
  if (status !== 0) process.exit(status ?? 1);
}

/** Installs the packages of the lockfile, unless these very ones are installed. */
export function installPackages() {
  const lock = readFileSync(join(root, "package-lock.json"), "utf8");
  const stamp = join(root, "node_modules", ".epistyle-lock");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === lock) return;
  run("npm", ["ci", "--no-audit", "--no-fund"]);
  writeFileSync(stamp, lock);
}

export function build() {
  run(process.execPath, ["tools/build.mjs"]);
}

/** Installs Debian's Chromium when there is none. */
export function installChromium() {
  installDebianPackage("chromium", CHROMIUM);
}

export function installDebianPackage(name, program) {
  if (existsSync(program)) return;
  const prefix = process.getuid?.() === 0 ? [] : ["sudo"];
  const apt = (...args) => {
    const [command, ...rest] = [...prefix, "apt-get", ...args];
    execFileSync(command, rest, {
      stdio: "inherit",
      env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" },
    });
  };
  try {
    apt("update", "-qq");
    apt("install", "-y", "-qq", "--no-install-recommends", name);
  } catch {
    console.error(
      `${name} is needed at ${program} and could not be installed with apt-get; install it by hand.`,
    );
    process.exit(2);
  }
}
