import { formatCount } from "../../core/text/size.js";
import type { Reply } from "../ask/ask.js";
import { sameBytes } from "../checks/body.js";
import type { Check } from "../checks/check.js";
import { readMediaType, readText } from "../checks/content.js";
import { kindOf } from "../discover/kind.js";
import type { Sample } from "../discover/sample.js";
import { demand, get, makeCase, type Pack } from "./pack.js";

/** Names that come into a served folder by accident, by what they are. */
const COMMON: Readonly<Record<string, readonly string[]>> = {
  "version control": [".git/HEAD", ".git/config", ".git/index", ".svn/entries", ".hg/store/00manifest.i"],
  "environment files": [".env", ".env.local", ".env.production", "env.json"],
  keys: ["server.key", "private.key", "key.pem", "id_rsa", ".ssh/id_rsa", "cert.p12"],
  secrets: [".npmrc", "secrets.json", "credentials.json", "passwords.txt", ".aws/credentials"],
  "the project itself": [
    "package.json",
    "package-lock.json",
    "tsconfig.json",
    "node_modules/.package-lock.json",
    "src/main.ts",
  ],
  "how it is run": [
    "Dockerfile",
    "docker-compose.yml",
    "epistyle.config.yaml",
    "expectations.yaml",
    "server.js",
    "server.mjs",
  ],
  databases: ["database.sqlite", "data.db", "dump.sql", "backup.sql"],
  backups: ["backup.zip", "backup.tar.gz", "site.zip", "index.html.bak", "index.html~", ".index.html.swp"],
  "an editor's traces": [".vscode/settings.json", ".idea/workspace.xml", ".DS_Store", "Thumbs.db"],
};

/** Endings that editors and people give to copies. */
const COPIES = [".bak", ".old", ".orig", "~"];

/** Common things that should not be reachable, and, where the site's files are known, every name that is rarely meant for visitors. */
export const exposure: Pack = (sample) => {
  const names = Object.entries(COMMON).flatMap(([what, list]) =>
    list.map((name) => ({ path: `/${name}`, what })),
  );
  const copies = sample.resources
    .filter(({ path, kind }) => (kind === "document" || kind === "script") && !path.endsWith("/"))
    .slice(0, 3)
    .flatMap(({ path }) => COPIES.map((ending) => ({ path: path + ending, what: "a copy" })));
  const asked = new Map([...names, ...copies, ...sample.privateNames].map((one) => [one.path, one.what]));
  return [...asked].map(([path, what]) =>
    makeCase(
      `${path} (${what})`,
      get(path, { Accept: "*/*" }),
      [notReachable(sample)],
      "what lies in a served folder is found by strangers who try common names",
    ),
  );
};

function notReachable({ missing }: Sample): Check {
  return demand("answer", "an error, or the page for what is missing", ({ reply, question }) => {
    if (reply.status >= 300 || sameBytes(reply.body, missing.body)) return undefined;
    // A server that gives its application's page to everything gives it here too.
    if (isShell(reply, missing)) return undefined;
    return `${reply.status} with ${describe(reply)} at ${question.path}`;
  });
}

function isShell(reply: Reply, missing: Reply): boolean {
  const isDocument = (one: Reply): boolean => kindOf(one) === "document";
  return missing.status === 200 && isDocument(missing) && isDocument(reply);
}

function describe(reply: Reply): string {
  const content = readText(reply);
  const size = content.ok ? `${formatCount(content.bytes.length)} bytes` : "a body";
  return `${size} of ${readMediaType(reply.headers) ?? "no type"}`;
}
