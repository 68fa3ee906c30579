import { formatDuration } from "../../config/durations.js";
import { prefersHtml } from "../../core/fields/accept.js";
import { parseHttpDate } from "../../core/fields/http-date.js";
import { extensionOf } from "../../reading/contents/kinds.js";
import { findSent, type Reply } from "../ask/ask.js";
import { listCodings, readMediaType, readText } from "../checks/content.js";
import { kindOf } from "../discover/kind.js";
import type { Comparison, Pair } from "./pair.js";

type Differences = Omit<Comparison, "reasons">;

/** One thing that may be behind a difference: a sentence, or undefined when it is not. */
type Guess = (pair: Pair, differences: Differences) => string | undefined;

/** The likely reasons for what differs between two answers, the most likely first. */
export function findReasons(pair: Pair, differences: Differences): string[] {
  return GUESSES.flatMap((guess) => guess(pair, differences) ?? []);
}

const at = (pair: Pair, side: "here" | "there"): Reply["headers"] => pair[side].headers;
const isDocument = (reply: Reply): boolean => kindOf(reply) === "document";
const other = (side: "here" | "there"): "here" | "there" => (side === "here" ? "there" : "here");
const SIDES = ["here", "there"] as const;

/** The first part of a path, as a prefix: what one mount or one application is under. */
function prefixOf(path: string): string {
  return /^\/[^/?]+\//.exec(path)?.[0] ?? "/";
}

const shellMissing: Guess = ({ question, ...pair }, { status }) => {
  const { path, headers } = question;
  if (status === undefined || extensionOf(path) !== "" || !prefersHtml(findSent(headers, "accept")))
    return undefined;
  for (const side of SIDES) {
    if (status[side] === 404 && status[other(side)] === 200 && isDocument(pair[other(side)]))
      return `the app shell seems to be missing ${side} under ${prefixOf(path)}: a deep link works only ${other(side)}`;
  }
  return undefined;
};

const shellEverywhere: Guess = ({ question, ...pair }, { status }) => {
  if (status === undefined || extensionOf(question.path) === "") return undefined;
  for (const side of SIDES) {
    const isPage = isDocument(pair[side]) && !/\.x?html?$/.test(extensionOf(question.path));
    if (status[side] === 200 && status[other(side)] === 404 && isPage)
      return `${side}, the app shell answers for a missing file: the fallback answers every request`;
  }
  return undefined;
};

const refused: Guess = (_, { status }) => {
  for (const side of SIDES) {
    const code = status?.[side];
    if (code === 401 || code === 407)
      return `${side}, the server asks for credentials (${code}); give --header 'Authorization: …'`;
    if (code === 429 || code === 503)
      return `${side}, the server is busy or limits requests (${code}); send fewer at a time with --concurrency 1`;
    if (code === 403)
      return `${side}, the address is refused (403): a permission, a rule, or a firewall in between`;
    if (code !== undefined && code >= 500) return `${side}, the server fails (${code}); its log says why`;
  }
  return undefined;
};

const redirected: Guess = (pair, { status }) => {
  for (const side of SIDES) {
    const location = at(pair, side).location;
    if (status === undefined || location === undefined || status[other(side)] >= 300) continue;
    if (location.startsWith("https:"))
      return `${side}, the server redirects to HTTPS; compare with an address that begins with https:`;
    return `${side}, the server redirects to ${location}: it has another rule for addresses, such as one for slashes or host names`;
  }
  return undefined;
};

const notDeployed: Guess = ({ question }, { status }) => {
  for (const side of SIDES) {
    if (status?.[side] === 404 && status[other(side)] < 400 && extensionOf(question.path) !== "")
      return `the file is only ${other(side)}: not deployed ${side}, named in another case, or withheld`;
  }
  return undefined;
};

const compressedBetween: Guess = (pair, { fields }) => {
  if (!fields.some(({ name, noise }) => name === "content-encoding" && !noise)) return undefined;
  for (const side of SIDES) {
    const coding = listCodings(at(pair, side)).join(", ");
    if (coding === "" || listCodings(at(pair, other(side))).length > 0) continue;
    const { etag, via } = at(pair, side);
    const isTagLost = etag === undefined && at(pair, other(side)).etag !== undefined;
    const between = via !== undefined || isTagLost || etag?.startsWith("W/");
    return between
      ? `${side}, something in between compresses (${coding}${via === undefined ? "" : `, Via: ${via}`})${isTagLost ? ", and removes the entity tag" : ""}`
      : `${side}, the server compresses (${coding}); ${other(side)}, it does not`;
  }
  return undefined;
};

const cachedBetween: Guess = (pair, { body, status }) => {
  for (const side of SIDES) {
    const { age, via } = at(pair, side);
    if (age === undefined || !/^\d+$/.test(age) || age === "0") continue;
    if (body === undefined && status === undefined) continue;
    const name = via === undefined ? "" : `, Via: ${via}`;
    return `${side}, a cache in between sent a copy that is ${formatDuration(Number(age))} old (Age: ${age}${name}); ask again later, or empty the cache`;
  }
  return undefined;
};

const validatorsLost: Guess = (pair, { fields }) => {
  const lost = (side: "here" | "there"): string[] =>
    fields.flatMap(({ name, noise, ...values }) =>
      !noise && (name === "etag" || name === "last-modified") && values[side] === undefined ? [name] : [],
    );
  for (const side of SIDES) {
    const names = lost(side).map((name) => (name === "etag" ? "ETag" : "Last-Modified"));
    if (names.length === 0) continue;
    const via = at(pair, side).via;
    const who =
      via === undefined ? "the server, or something in between," : `something in between (Via: ${via})`;
    return `${side}, ${who} removes ${names.join(" and ")}: every visit fetches the whole file again`;
  }
  return undefined;
};

const anotherBuild: Guess = (pair, { body }) => {
  if (body === undefined || !isDocument(pair.here) || !isDocument(pair.there)) return undefined;
  const bundles = (reply: Reply): string => {
    const { text = "" } = readText(reply) as { text?: string };
    return [...text.matchAll(/(?:src|href)="([^"]*-[\w-]{8}\.(?:js|css))"/g)].map((match) => match[1]).join();
  };
  const [a, b] = [bundles(pair.here), bundles(pair.there)];
  return a !== b && a !== "" && b !== ""
    ? "the two documents name different bundles: another build is deployed"
    : undefined;
};

const older: Guess = (pair, { body }) => {
  if (body === undefined) return undefined;
  const now = Date.now() / 1000;
  const dates = SIDES.map((side) => parseHttpDate(at(pair, side)["last-modified"] ?? "", now));
  if (dates[0] === undefined || dates[1] === undefined || dates[0] === dates[1]) return undefined;
  const side = dates[0] < dates[1] ? "here" : "there";
  return `the file is older ${side} (Last-Modified: ${at(pair, side)["last-modified"]})`;
};

const typeOrCharset: Guess = (pair, { fields }) => {
  const extension = extensionOf(pair.question.path);
  const isOther = fields.some(({ name, noise }) => name === "content-type" && !noise);
  if (!isOther || pair.here.status >= 300) return undefined;
  const types = { here: readMediaType(pair.here.headers), there: readMediaType(pair.there.headers) };
  if (types.here === types.there) {
    if (!types.here?.startsWith("text/")) return undefined;
    const without = SIDES.find((side) => !/;\s*charset=/i.test(at(pair, side)["content-type"] ?? ""));
    return without && `${without}, no charset is named, so browsers guess one`;
  }
  if (extension === "") return undefined;
  for (const unknown of ["application/octet-stream", undefined, "text/plain"]) {
    const side = SIDES.find((one) => types[one] === unknown);
    if (side !== undefined)
      return `${side}, the server does not know the extension ${extension} (${unknown ?? "no type"})`;
  }
  return undefined;
};

const policyLost: Guess = (_, { fields }) => {
  const names = fields.filter(
    ({ name, noise }) =>
      !noise &&
      /^(?:x-content-type-options|content-security-policy|strict-transport-security|referrer-policy|permissions-policy|cross-origin-.*|access-control-.*)$/.test(
        name,
      ),
  );
  for (const side of SIDES) {
    const missing = names.filter((field) => field[side] === undefined);
    if (missing.length > 0 && missing.length === names.length)
      return `${side}, ${missing.length === 1 ? "a security field" : "security fields"} of the page ${missing.length === 1 ? "is" : "are"} not set, or ${missing.length === 1 ? "is" : "are"} removed in between`;
  }
  return undefined;
};

const GUESSES: readonly Guess[] = [
  refused,
  redirected,
  shellMissing,
  shellEverywhere,
  notDeployed,
  anotherBuild,
  cachedBetween,
  older,
  compressedBetween,
  validatorsLost,
  typeOrCharset,
  policyLost,
];
