import { formatFieldName } from "../../core/fields/grammar.js";
import { formatStatus } from "../../inspection/explain/outcome.js";
import type { Kept } from "./answer-key.js";

/** One way in which an answer changes. */
export interface Difference {
  /** For one address, and for several: "gets another lifetime", "get another lifetime". */
  readonly words: readonly [one: string, several: string];
  /** The fields that differ, where it is about fields. */
  readonly about?: string;
  readonly here: Side;
  readonly there: Side;
  /** Another answer altogether: others who ask for it learn nothing new. */
  readonly isWhole?: boolean;
}

/** One side of a difference: what several addresses share, and what is of one of them alone. */
export interface Side {
  readonly shared: string;
  readonly own?: string;
}

const NOTHING: Side = { shared: "" };

const tell = (one: string, several: string, here = NOTHING, there = NOTHING): Difference => ({
  words: [one, several],
  here,
  there,
});
const ok = (status: number): boolean => status >= 200 && status < 300;
const led = (status: number): boolean => status === 301 || status === 302;

/** What differs between two answers to the same question, what weighs most first. */
export function findDifferences(here: Kept, there: Kept): Difference[] {
  if (here.status !== there.status) return [{ ...compareStatus(here, there), isWhole: true }];
  const found: Difference[] = [];
  if (here.file !== there.file || (here.file === undefined && here.by !== there.by))
    found.push(
      tell(
        "is answered by another file",
        "are answered by another file",
        own(here.by || "no file"),
        own(there.by || "no file"),
      ),
    );
  else if (here.file !== undefined && here.status === 200) found.push(...compareContent(here, there));
  if (here.location !== there.location)
    found.push(tell("redirects elsewhere", "redirect elsewhere", own(here.location), own(there.location)));
  if (here.listed !== there.listed) found.push(tell("gets another listing", "get another listing"));
  return [...found, ...compareFields(here, there)];
}

// Compressed bytes have their own tag, and no size that says anything.
function compareContent(here: Kept, there: Kept): Difference[] {
  const [[tag, size, modified], [otherTag, otherSize, otherModified]] = [here.content, there.content];
  if (tag === otherTag || here.fields.get("content-encoding") !== there.fields.get("content-encoding"))
    return [];
  return size === otherSize && modified === otherModified
    ? [tell("gets another entity tag", "get another entity tag")]
    : [tell("has another content", "have another content")];
}

function compareStatus(here: Kept, there: Kept): Difference {
  const [a, b] = [describe(here), describe(there)];
  if (there.status === 0) return tell("is passed on", "are passed on", a, b);
  if (led(there.status)) return tell("redirects now", "redirect now", a, b);
  if (there.status === 410) return tell("is gone", "are gone", a, b);
  if (there.status === 403) return tell("is forbidden", "are forbidden", a, b);
  if (there.status === 404 && (ok(here.status) || led(here.status)))
    return tell("is no longer found", "are no longer found", a, b);
  if (ok(there.status) && !ok(here.status)) return tell("is found now", "are found now", a, b);
  return tell("gets another status", "get another status", a, b);
}

function describe({ status, by, location }: Kept): Side {
  if (status === 0) return { shared: "passed on to the application" };
  const what = location === "" ? (by === "" ? "" : `, ${by}`) : `, to ${location}`;
  return { shared: formatStatus(status), own: what };
}

const own = (text: string): Side => ({ shared: "", own: text });

/** Fields that say one thing together, and how that is called. */
const TOGETHER: readonly { readonly names: RegExp; readonly words: readonly [string, string] }[] = [
  {
    names: /^(?:cache-control|cdn-cache-control|expires)$/,
    words: ["gets another lifetime", "get another lifetime"],
  },
  { names: /^content-type$/, words: ["gets another media type", "get another media type"] },
  {
    names: /^content-disposition$/,
    words: ["changes between download and page", "change between download and page"],
  },
  { names: /^content-encoding$/, words: ["gets another compression", "get another compression"] },
  {
    names: /^access-control-/,
    words: ["gets other cross-origin fields", "get other cross-origin fields"],
  },
  {
    names:
      /^(?:content-security-policy|referrer-policy|permissions-policy|cross-origin-|strict-transport|reporting-)/,
    words: ["gets another protection", "get another protection"],
  },
];

function compareFields(here: Kept, there: Kept): Difference[] {
  const names = [...new Set([...here.fields.keys(), ...there.fields.keys()])];
  const different = names.filter((name) => here.fields.get(name) !== there.fields.get(name));
  const left = new Set(different);
  const found: Difference[] = [];
  for (const { names: are, words } of TOGETHER) {
    const mine = different.filter((name) => are.test(name));
    for (const name of mine) left.delete(name);
    // What goes along with it: the negotiation's field, and what a script of another origin may read.
    if (mine.length > 0) found.push(tellFields(words, mine, here, there));
  }
  if (found.length > 0) left.delete("vary");
  const rest = [...left];
  if (rest.length > 0)
    found.push(tellFields(["gets other header fields", "get other header fields"], rest, here, there));
  return found;
}

/** Values that are made from each file's own bytes (RFC 9530 §2, §3). */
const BY_CONTENT = /^(?:content|repr)-digest$/;

function tellFields(
  words: Difference["words"],
  names: readonly string[],
  here: Kept,
  there: Kept,
): Difference {
  return { ...tell(...words, list(here, names), list(there, names)), about: names.join(" ") };
}

function list({ fields }: Kept, names: readonly string[]): Side {
  const [only] = names;
  if (
    names.length === 1 &&
    /^(?:cache-control|content-type|content-disposition|content-encoding)$/.test(only!)
  )
    return { shared: fields.get(only!)?.replace(/^attachment;.*/, "attachment") ?? "not said" };
  const told = names.map((name) => {
    const value = fields.get(name) ?? "not said";
    return `${formatFieldName(name)}: ${value !== "not said" && BY_CONTENT.test(name) ? "made from the file" : value}`;
  });
  return { shared: told.join("; ") };
}
