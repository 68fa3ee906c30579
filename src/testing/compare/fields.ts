import { splitMembers } from "../../core/fields/grammar.js";
import { own } from "../../core/text/own.js";
import { decideFreshness, speakFreshness } from "../checks/freshness.js";
import { isOfOneMessage } from "../checks/noise.js";

/** Fields that stand for a version of the content: that there is one matters, which one does not. */
const VALIDATORS = new Set(["etag", "last-modified"]);

/** A field that differs between two answers. */
export interface FieldDifference {
  /** In lower case. */
  readonly name: string;
  readonly here: string | undefined;
  readonly there: string | undefined;
  /** True for one that is left out unless it is asked for. */
  readonly noise: boolean;
}

type Headers = Readonly<Record<string, string>>;

/** The fields that differ, in the order of their names. `addresses` are the base addresses, which a field may name. */
export function compareFields(
  here: Headers,
  there: Headers,
  addresses: readonly [here: string, there: string],
): FieldDifference[] {
  const names = [...new Set([...Object.keys(here), ...Object.keys(there)])].sort();
  return names.flatMap((name) => {
    const [a, b] = [own(here, name), own(there, name)];
    if (a === b) return [];
    const noise = isNoise(name, here, there, addresses);
    return [{ name, here: a, there: b, noise }];
  });
}

function isNoise(name: string, here: Headers, there: Headers, addresses: readonly [string, string]): boolean {
  const [a, b] = [own(here, name), own(there, name)];
  // How long the coded form is depends on who codes it.
  if (isOfOneMessage(name) || name === "content-length") return true;
  if (VALIDATORS.has(name)) return a !== undefined && b !== undefined;
  // Said in other words, it is the same.
  if (name === "expires")
    return speakFreshness(decideFreshness(here)) === speakFreshness(decideFreshness(there));
  if (a === undefined || b === undefined) return false;
  if (name === "location") return a.replace(addresses[0], "") === b.replace(addresses[1], "");
  if (name === "set-cookie") return cookieNames(a) === cookieNames(b);
  return normalise(a) === normalise(b);
}

// Lists in another order, or with other blanks and case in what ignores them, mean the same.
function normalise(value: string): string {
  return splitMembers(value.toLowerCase(), ",")
    .map((member) => splitMembers(member, ";").join(";"))
    .sort()
    .join(",");
}

function cookieNames(value: string): string {
  return [...value.matchAll(/(?:^|,\s*)([^=;,\s]+)=/g)]
    .map((match) => match[1])
    .sort()
    .join();
}
