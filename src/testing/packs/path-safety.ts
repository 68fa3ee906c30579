import { extensionOf } from "../../reading/contents/kinds.js";
import type { Reply } from "../ask/ask.js";
import type { Case } from "../case.js";
import { sameBytes } from "../checks/body.js";
import type { Check } from "../checks/check.js";
import { readContent } from "../checks/content.js";
import { NO_SUCH_NAME, type Sample } from "../discover/sample.js";
import { asAdvice, demand, get, makeCase, type Pack } from "./pack.js";

const OTHER_HOST = "other-site.invalid";

/** Addresses that try to leave the folder. `{at}` is a directory of the site, with its slash. */
const CLIMBING: readonly (readonly [path: string, what: string])[] = [
  ["{at}../package.json", "dot segments"],
  ["{at}%2e%2e/package.json", "dot segments, escaped"],
  ["{at}.%2e/%2e./package.json", "dot segments, half escaped"],
  ["{at}..%2fpackage.json", "a slash, escaped"],
  ["{at}..%2f..%2f..%2f..%2f..%2f..%2fetc%2fpasswd", "many steps up, slashes escaped"],
  ["{at}../../../../../../etc/passwd", "many steps up"],
  ["{at}%2e%2e/%2e%2e/%2e%2e/%2e%2e/%2e%2e/etc/passwd", "many steps up, escaped"],
  ["{at}..%5c..%5cpackage.json", "backslashes, escaped"],
  ["{at}..\\..\\package.json", "backslashes"],
  ["{at}%252e%252e%252fpackage.json", "escaped twice"],
  ["{at}%c0%ae%c0%ae/package.json", "dots in a longer form than UTF-8 has"],
  ["{at}%00", "a NUL"],
  ["{at}index.html%00.png", "a NUL inside a name"],
  ["{at}%", "an escape cut short"],
  ["{at}%zz", "an invalid escape"],
  ["{at}.%00./package.json", "a NUL between dots"],
  ["//etc/passwd", "a path from the machine's root"],
  ["/c:/windows/win.ini", "a drive letter"],
];

/** Addresses that try to lead a visitor to another site, or to write into the answer's head. */
const LEADING_AWAY: readonly (readonly [path: string, what: string])[] = [
  [`//${OTHER_HOST}/%2e%2e`, "two slashes and a host"],
  [`//${OTHER_HOST}`, "two slashes and a host, bare"],
  [`/%5c${OTHER_HOST}/%2e%2e`, "a backslash and a host"],
  [`/%2f%2f${OTHER_HOST}`, "two slashes, escaped, and a host"],
  [`/.//${OTHER_HOST}`, "a dot and two slashes"],
];

/** What files outside look like: an answer that has it comes from where none should. */
const LEAKS = /root:[^:\n]*:0:0:|"(?:dev)?dependencies"\s*:|^\[fonts\]/im;

/** Addresses that try to leave the folder or the site: each only reads, and none needs to exist. */
export const pathSafety: Pack = (sample) => {
  const inner = sample.directories.find((one) => one !== "/");
  const places = ["/", ...(inner === undefined ? [] : [inner])];
  const climbing = places.flatMap((at, index) =>
    CLIMBING.filter(([path]) => index === 0 || path.startsWith("{at}")).map(([path, what]) =>
      makeCase(
        `${what}${at === "/" ? "" : `, from ${at}`}`,
        get(path.replace("{at}", at)),
        [path.includes("%00") ? nothingAtAll(sample) : nothingFromOutside(sample)],
        "RFC 3986 §7.3, §5.2.4: no address leaves the folder, however it is escaped",
      ),
    ),
  );
  const away = LEADING_AWAY.map(([path, what]) =>
    makeCase(
      what,
      get(path),
      [staysHere],
      "RFC 9110 §17.9, §10.2.2: no redirect leads to a host named in the path",
    ),
  );
  const split = makeCase(
    "line breaks, escaped",
    get("/no-such-name%0d%0aX-Written-By-Address:%20yes/"),
    [
      demand("X-Written-By-Address", "nothing", ({ reply }) => reply.headers["x-written-by-address"]),
      ...[noFailure],
    ],
    "RFC 9110 §5.5: an address cannot write a field of the answer",
  );
  return [...climbing, ...away, split, ...askOtherwise(sample), ...askForMuch(), ...askInWhole(sample)];
};

/** Other ways to write the address of a file: `path` ends with its extension. */
const OTHERWISE: readonly (readonly [what: string, write: (path: string) => string])[] = [
  ["in the other case", swapCase],
  ["with a path after it", (path) => `${path}/${NO_SUCH_NAME}.css`],
  ["with a dot at its end", (path) => `${path}.`],
  ["with a space at its end", (path) => `${path}%20`],
  ["with a parameter after a semicolon", (path) => `${path};${NO_SUCH_NAME}=1`],
];

function swapCase(path: string): string {
  return path.replace(/[a-z]|%[0-9a-f]{2}/gi, (text) =>
    text.length > 1 ? text : text === text.toUpperCase() ? text.toLowerCase() : text.toUpperCase(),
  );
}

// One file under several names is kept several times by caches, and a rule for the one name misses the other.
function askOtherwise({ resources }: Sample): Case[] {
  const file = resources.find(
    ({ path, kind }) => extensionOf(path) !== "" && !path.includes("?") && kind !== "document",
  );
  const page = resources.find(({ path }) => /\.html?$/.test(path));
  return [file, page].flatMap((one) => {
    if (one === undefined) return [];
    return OTHERWISE.map(([what, write]) =>
      makeCase(
        `${one.path} ${what}`,
        get(write(one.path)),
        [
          demand("answer", "not the file: it has one address", ({ reply, question }) =>
            reply.status === 200 && sameBytes(reply.body, one.reply.body)
              ? `the file, at two addresses: ${question.path} too, ${what}`
              : undefined,
          ),
        ],
        "RFC 3986 §6.2.2.1: paths that differ in a letter are different; a rule or a cache that knows one name misses the other",
      ),
    );
  });
}

/** A request as long as a careless client makes one, in characters and fields: platforms take 8,000 and more. */
const LONG = 6000;
const MANY = 60;

function askForMuch(): Case[] {
  const fields = Object.fromEntries(Array.from({ length: MANY }, (_, index) => [`X-Epistyle-${index}`, "1"]));
  const ask = (what: string, path: string, headers: Record<string, string> = {}): Case =>
    makeCase(
      what,
      get(path, headers),
      [failsNot(what)],
      "RFC 9110 §15.5.15, RFC 6585 §5: too much is refused with a clear status",
    );
  return [
    ask("a long address", `/${NO_SUCH_NAME}-${"long".repeat(LONG / 4)}`),
    ask("a long query", `/?${NO_SUCH_NAME}=${"long".repeat(LONG / 8)}`),
    ask("many fields", "/", fields),
  ];
}

function failsNot(what: string): Check {
  return demand("status", "an answer, or a refusal (4xx)", ({ reply: { status } }) =>
    status >= 500 && status !== 501 ? `${status}, for ${what}` : undefined,
  );
}

// RFC 9112 §3.2.2: every server takes the absolute form.
function askInWhole(sample: Sample): Case[] {
  const front = sample.resources.find(({ path }) => path === "/");
  if (sample.inProcess || front === undefined) return [];
  const question = { ...get(`${sample.address}/`), ownSocket: true };
  const ask = (check: Check): Case =>
    makeCase("an absolute target", question, [check], "RFC 9112 §3.2.2: a server must accept it");
  const found = demand("status", "200, as for /, also in the absolute form", ({ reply: { status } }) =>
    status === 200 || status >= 500 ? undefined : `${status}, for the absolute form`,
  );
  return [
    ask(failsNot("an absolute target")),
    asAdvice(ask(found), "Accept targets in the absolute form (RFC 9112 §3.2.2): some proxies send them."),
  ];
}

const noFailure = demand("status", "an answer of the site, and no failure (5xx)", ({ reply }) =>
  reply.status >= 500 && reply.status !== 501 ? String(reply.status) : undefined,
);

function nothingFromOutside(sample: Sample): Check {
  return demand(
    "answer",
    "an error, a redirect inside the site, or the page for missing addresses",
    (seen) => {
      const { reply } = seen;
      if (reply.status >= 500 && reply.status !== 501) return `${reply.status}: a failure of the server`;
      const content = readContent(reply);
      const text = content.ok ? new TextDecoder().decode(content.bytes.subarray(0, 64 * 1024)) : "";
      if (LEAKS.test(text))
        return `${reply.status} with what looks like a file from outside the folder: ${firstLine(text)}`;
      if (reply.status >= 300) return staysHere.look(seen)?.text;
      return isKnown(reply, sample) ? undefined : `${reply.status} with ${firstLine(text)}`;
    },
  );
}

// What is behind a NUL is left out where names end with one: another file answers than the one that was checked.
function nothingAtAll({ missing }: Sample): Check {
  return demand("answer", "an error: no name has a NUL", ({ reply }) => {
    if (reply.status >= 500 && reply.status !== 501) return `${reply.status}: a failure of the server`;
    return reply.status === 200 && !sameBytes(reply.body, missing.body)
      ? "200: the name is cut at the NUL"
      : undefined;
  });
}

// A server may take a dot segment away and answer what the rest names, if that is the site's own page.
function isKnown(reply: Reply, { missing, resources }: Sample): boolean {
  const same = (other: Reply): boolean => sameBytes(other.body, reply.body);
  return same(missing) || resources.some((one) => one.kind === "document" && same(one.reply));
}

const staysHere = demand(
  "redirect",
  "none, or one that stays on the site",
  ({ reply, question, address }) => {
    const { location } = reply.headers;
    if (location === undefined) return undefined;
    // Browsers resolve the path as sent: two slashes at its start are part of it, and not a host.
    const base = `${new URL(address).origin}/${question.path.replace(/^\/+/, "")}`;
    if (!URL.canParse(location, base)) return `an address that cannot be read: ${location}`;
    const to = new URL(location, base);
    const from = new URL(address);
    const isHttps = to.protocol === "https:" && from.protocol === "http:" && to.hostname === from.hostname;
    return to.origin === from.origin || isHttps ? undefined : location;
  },
);

function firstLine(text: string): string {
  return JSON.stringify(text.trim().split("\n")[0]!.slice(0, 60));
}
