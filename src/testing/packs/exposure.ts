import { EXPOSURES, findExposure } from "../../config/exposures.js";
import { formatCount } from "../../core/text/size.js";
import type { Reply } from "../ask/ask.js";
import type { Case } from "../case.js";
import { sameBytes } from "../checks/body.js";
import type { Check } from "../checks/check.js";
import { readContent, readMediaType, readText } from "../checks/content.js";
import { kindOf } from "../discover/kind.js";
import type { Sample } from "../discover/sample.js";
import { demand, get, makeCase, type Pack } from "./pack.js";

/** Endings that editors and people give to copies. */
const COPIES = [".bak", ".old", ".orig", "~"];

/** Common things that should not be reachable, and, where the site's files are known, every name that is rarely meant for visitors. */
export const exposure: Pack = (sample) => {
  const names = EXPOSURES.flatMap(({ tried, what, severity, reason, code }) =>
    tried.map((name) => ({ path: `/${name}`, what, why: `${severity}: ${reason} (${code})` })),
  );
  const copies = sample.resources
    .filter(({ path, kind }) => (kind === "document" || kind === "script") && !path.endsWith("/"))
    .slice(0, 3)
    .flatMap(({ path }) => COPIES.map((ending) => ({ path: path + ending, what: "a copy", why: COPY })));
  const shouted = names
    .filter(({ path }) => /^\/\.(?:git\/config|env)$/.test(path))
    .map((one) => ({
      ...one,
      path: one.path.replace(/\.\w+/, (text) => text.toUpperCase()),
      what: `${one.what}, in another case`,
    }));
  const own = sample.privateNames.map(({ path, what }) => ({ path, what, why: whyPrivate(path) }));
  const asked = new Map([...names, ...shouted, ...copies, ...own].map((one) => [one.path, one]));
  return [
    ...[...asked.values()].map(({ path, what, why }) =>
      makeCase(`${path} (${what})`, get(path, { Accept: "*/*" }), [notReachable(sample)], `${why} ${FIX}`),
    ),
    ...lookForSourceMaps(sample),
  ];
};

const BUILT_AT_MOST = 60;

// ECMA-426: a map may carry the sources themselves.
function lookForSourceMaps({ resources, links }: Sample): Case[] {
  const known = [...resources.map(({ path }) => path), ...links.mentions.map(({ to }) => to)];
  const built = [...new Set(known)].filter((path) => /\.(?:m?js|css)$/.test(path)).slice(0, BUILT_AT_MOST);
  const maps = built.map((path) =>
    makeCase(`${path}.map (a source map)`, get(`${path}.map`), [noSources((text) => text)], SOURCES),
  );
  const inside = resources
    .filter(({ kind }) => kind === "script" || kind === "style")
    .map((one) =>
      makeCase(`${one.path} has no source map`, one.question, [noSources(readInlineMap)], SOURCES),
    );
  return [...maps, ...inside];
}

const SOURCES =
  "warning: Sources show the program's comments and secrets. (source-map) Build without source maps, or withhold them.";

function noSources(find: (text: string) => string): Check {
  return demand("source map", "no source map with sources in it", ({ reply, question }) => {
    const { text = "" } = readText(reply) as { text?: string };
    if (reply.status !== 200 || !find(text).includes('"sourcesContent"')) return undefined;
    return `a source map with the program's sources, at ${question.path}`;
  });
}

function readInlineMap(text: string): string {
  const [, data] =
    /sourceMappingURL=data:application\/json;(?:charset=[\w-]+;)?base64,([A-Za-z0-9+/=]{1,4000000})/.exec(
      text,
    ) ?? [];
  return data === undefined ? "" : Buffer.from(data, "base64").toString("utf8");
}

const FIX = "Remove it from the served folder, or add it to withheld.";
const COPY = "warning: A copy of a page or program shows what changed. (backup-copy)";

function whyPrivate(path: string): string {
  const found = findExposure(decodeURIComponent(path));
  return found === undefined ? COPY : `${found.severity}: ${found.reason} (${found.code})`;
}

function notReachable({ missing, shells }: Sample): Check {
  return demand("answer", "an error, or the page for missing addresses", ({ reply, question }) => {
    // A certificate, or parameters that everybody may know.
    if (findExposure(question.path)?.byContent && isPublic(reply)) return undefined;
    if (reply.status >= 300 || sameBytes(reply.body, missing.body)) return undefined;
    // A server that gives its application's page to everything gives it here too.
    if (isShell(reply, missing)) return undefined;
    if (kindOf(reply) === "document" && shells.some(({ under }) => question.path.startsWith(under)))
      return undefined;
    return `${reply.status} with ${describe(reply)} at ${question.path}`;
  });
}

// RFC 7468: what stands between the lines has a name.
function isPublic(reply: Reply): boolean {
  const content = readContent(reply);
  if (!content.ok) return false;
  const names =
    Buffer.from(content.bytes)
      .toString("latin1")
      .match(/-----BEGIN [A-Z0-9 ]{1,60}-----/g) ?? [];
  return names.length > 0 && names.every((name) => /CERTIFICATE|PARAMETERS|PUBLIC KEY|CRL/.test(name));
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
