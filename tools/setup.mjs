// What the two README commands have in common: packages, a build, and a browser, each only when it is not there yet.
import { execFileSync, spawnSync } from "node:child_process";
import { existsSync, readFileSync } from "node:fs";
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

/** Installs the packages of the lockfile, unless these very ones are installed, by whomever. */
export function installPackages() {
  const lock = join(root, "package-lock.json");
  const installed = join(root, "node_modules", ".package-lock.json");
  if (existsSync(installed) && areAll(readPackages(lock), readPackages(installed))) return;
  run("npm", ["ci", "--no-audit", "--no-fund"]);
}

const readPackages = (file) => JSON.parse(readFileSync(file, "utf8")).packages;

// What is for another platform is not installed.
function areAll(wanted, installed) {
  return Object.entries(wanted).every(
    ([path, { version, optional = false }]) =>
      path === "" || (installed[path] === undefined ? optional : installed[path].version === version),
  );
}

export function build() {
  run(process.execPath, ["tools/build.mjs"]);
}

/** Installs and builds what is not there yet: what is, stays as it is. */
export function prepare() {
  installPackages();
  if (!existsSync(join(root, "dist/cli/bin.js"))) build();
}

/** Installs Debian's Chromium when there is none. */
export function installChromium() {
  installDebianPackages({ chromium: CHROMIUM });
}

/** Installs what the tests ask beside a browser: commands of the docs, two shared caches, a check of unit files, a reader of
 * OpenMetrics text. */
export function installTestPartners() {
  installDebianPackages({
    curl: "/usr/bin/curl",
    openssl: "/usr/bin/openssl",
    squid: "/usr/sbin/squid",
    systemd: "/usr/bin/systemd-analyze",
    varnish: "/usr/sbin/varnishd",
    "python3-prometheus-client": "/usr/lib/python3/dist-packages/prometheus_client",
  });
}

/** Installs the packages of Debian whose files are not there yet, all in one go. */
export function installDebianPackages(files) {
  const missing = Object.entries(files).filter(([, file]) => !existsSync(file));
  if (missing.length === 0) return;
  const names = missing.map(([name]) => name);
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
    apt("install", "-y", "-qq", "--no-install-recommends", ...names);
  } catch {
    const wanted = missing.map(([name, file]) => `${name} (${file})`).join(", ");
    console.error(`Needed, and not to be installed with apt-get: ${wanted}. Install it by hand.`);
    process.exit(2);
  }
}
