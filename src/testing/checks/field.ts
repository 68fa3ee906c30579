import { splitMembers } from "../../core/fields/grammar.js";
import { own } from "../../core/text/own.js";
import type { HeaderExpectation } from "../format/schema-expectation.js";
import {
  isWithin,
  showBound,
  showPattern,
  toExpression,
  type WrittenPattern,
} from "../format/schema-texts.js";
import type { Check, Got, Seen } from "./check.js";
import { holdAgainst, TOOK_TOO_LONG } from "./pattern.js";

const NOTHING = "nothing";

/** Demands that a value is this one. */
export function compareValue(
  about: string,
  expected: string,
  read: (seen: Seen) => string | undefined,
): Check {
  return {
    about,
    expected,
    look(seen) {
      const got = read(seen);
      if (got === expected) return undefined;
      return got === undefined ? { text: NOTHING } : { text: got, comparable: true };
    },
  };
}

/** The checks of one header field. */
export function checkField(name: string, wanted: HeaderExpectation): Check[] {
  const key = name.toLowerCase();
  const read = ({ reply }: Seen): string | undefined => own(reply.headers, key);
  if (typeof wanted === "string") return [compareValue(name, wanted, read)];
  const check = (expected: string, holds: (got: string | undefined) => boolean): Check => ({
    about: name,
    expected,
    look(seen) {
      const got = read(seen);
      return holds(got) ? undefined : ({ text: got ?? NOTHING } satisfies Got);
    },
  });
  const checks: Check[] = [];
  if (wanted.present !== undefined) {
    const { present } = wanted;
    checks.push(check(present ? "any value" : NOTHING, (got) => (got !== undefined) === present));
  }
  if (wanted.matches !== undefined) checks.push(checkMatch(name, toExpression(wanted.matches)));
  if (wanted.matchesNot !== undefined) checks.push(checkNoMatch(name, wanted.matchesNot));
  const { atLeast, atMost } = wanted;
  if (atLeast !== undefined || atMost !== undefined) {
    const bounds = { atLeast, atMost };
    checks.push(
      check(
        `a number, ${showBound(bounds)}`,
        (got) => /^-?\d+(?:\.\d+)?$/.test(got ?? "") && isWithin(Number(got), bounds),
      ),
    );
  }
  if (wanted.once) checks.push(checkOnce(name));
  for (const member of [wanted.lists ?? []].flat())
    checks.push(check(`a list with ${member}`, (got) => hasMember(got, member)));
  for (const member of [wanted.listsNot ?? []].flat())
    checks.push(check(`a list without ${member}`, (got) => !hasMember(got, member)));
  return checks;
}

/** The check of a header field by a pattern, with its flags; a search always begins at the start. */
export function checkMatch(name: string, written: RegExp): Check {
  const pattern = new RegExp(written.source, written.flags.replace(/[gy]/g, ""));
  const flags = pattern.flags.replace("u", "");
  return {
    about: name,
    // As it was written: the platform escapes slashes that need none here.
    expected: `a match of /${pattern.source.replaceAll("\\/", "/")}/${flags}`,
    look({ reply }) {
      const got = own(reply.headers, name.toLowerCase());
      if (got === undefined) return { text: NOTHING };
      const outcome = holdAgainst(pattern, got);
      if (outcome === "matches") return undefined;
      return { text: outcome === "takes too long" ? TOOK_TOO_LONG : got };
    },
  };
}

function checkNoMatch(name: string, written: WrittenPattern): Check {
  const pattern = toExpression(written);
  return {
    about: name,
    expected: `no match of ${showPattern(written)}`,
    look({ reply }) {
      const got = own(reply.headers, name.toLowerCase());
      const outcome = got === undefined ? "does not match" : holdAgainst(pattern, got);
      if (outcome === "does not match") return undefined;
      return { text: outcome === "takes too long" ? TOOK_TOO_LONG : got! };
    },
  };
}

/** Demands that a field comes in one line: several are joined otherwise, and nobody sees it. */
export function checkOnce(name: string): Check {
  return {
    about: name,
    expected: "one line",
    look({ reply: { lines = [] } }) {
      const values = lines
        .filter(([one]) => one.toLowerCase() === name.toLowerCase())
        .map(([, value]) => value);
      if (values.length === 1) return undefined;
      return { text: values.length === 0 ? NOTHING : `${values.length} lines: ${values.join(" | ")}` };
    },
  };
}

// Case is ignored, as most lists do.
function hasMember(value: string | undefined, member: string): boolean {
  return splitMembers(value ?? "", ",").some((one) => one.toLowerCase() === member.toLowerCase());
}
