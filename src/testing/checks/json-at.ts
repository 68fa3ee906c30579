import { readJson } from "../../reading/json.js";
import type { JsonExpectation } from "../format/schema-expectation.js";
import { isWithin, showBound, showPattern, toExpression } from "../format/schema-texts.js";
import type { Check } from "./check.js";
import { readText } from "./content.js";
import { findJsonDifference } from "./json-subset.js";
import { holdAgainst, TOOK_TOO_LONG } from "./pattern.js";

/** What stands at a JSON Pointer (RFC 6901 §4); undefined where there is nothing. */
export function valueAtPointer(value: unknown, pointer: string): unknown {
  let at = value;
  for (const token of pointer.split("/").slice(1)) {
    const name = token.replaceAll("~1", "/").replaceAll("~0", "~");
    if (Array.isArray(at)) at = /^(?:0|[1-9]\d*)$/.test(name) ? at[Number(name)] : undefined;
    else at = isGroup(at) && Object.hasOwn(at, name) ? at[name] : undefined;
  }
  return at;
}

/** The checks of places in a JSON body, one for each demand. */
export function checkJsonAt(places: Readonly<Record<string, JsonExpectation>>): Check[] {
  return Object.entries(places).flatMap(([pointer, wanted]) =>
    listDemands(wanted).map(
      ([expected, holds]): Check => ({
        about: "body",
        expected: `at ${pointer === "" ? "the root" : pointer} ${expected}`,
        look({ reply }) {
          const content = readText(reply);
          if (!content.ok) return { text: content.problem };
          const read = readJson(content.text ?? "");
          if (!read.ok) return { text: `a body that ${read.problem}` };
          const value = valueAtPointer(read.value, pointer);
          const outcome = holds(value);
          if (outcome === true) return undefined;
          return { text: typeof outcome === "string" ? outcome : show(value) };
        },
      }),
    ),
  );
}

/** True where it holds; a text that says why it cannot be told. */
type Demand = readonly [expected: string, holds: (value: unknown) => boolean | string];

function listDemands(wanted: JsonExpectation): Demand[] {
  const { present, equals, contains, matches, matchesNot, type, atLeast, atMost, count } = wanted;
  const demands: Demand[] = [];
  if (present !== undefined)
    demands.push([present ? "anything" : "nothing", (value) => (value !== undefined) === present]);
  if (equals !== undefined)
    demands.push([show(equals), (value) => findJsonDifference(equals, value) === undefined]);
  if (contains !== undefined)
    demands.push([`a list or a text with ${show(contains)}`, (value) => has(value, contains)]);
  for (const [written, isWanted] of [
    [matches, true],
    [matchesNot, false],
  ] as const) {
    if (written === undefined) continue;
    const pattern = toExpression(written);
    demands.push([
      `${isWanted ? "a match" : "no match"} of ${showPattern(written)}`,
      (value) => {
        const outcome = holdAgainst(
          pattern,
          typeof value === "string" ? value : (JSON.stringify(value) ?? ""),
        );
        if (outcome === "takes too long") return TOOK_TOO_LONG;
        return value !== undefined && (outcome === "matches") === isWanted;
      },
    ]);
  }
  if (type !== undefined) demands.push([`a value of the type ${type}`, (value) => isOfType(value, type)]);
  if (atLeast !== undefined || atMost !== undefined)
    demands.push([
      `a number, ${showBound({ atLeast, atMost })}`,
      (value) => typeof value === "number" && isWithin(value, { atLeast, atMost }),
    ]);
  if (count !== undefined)
    demands.push([
      `${showBound(count)} entries`,
      (value) => {
        const length = Array.isArray(value)
          ? value.length
          : isGroup(value)
            ? Object.keys(value).length
            : undefined;
        return length === undefined ? false : isWithin(length, count) || `${length} entries`;
      },
    ]);
  return demands;
}

function has(value: unknown, wanted: unknown): boolean {
  if (typeof value === "string") return typeof wanted === "string" && value.includes(wanted);
  return Array.isArray(value) && value.some((one) => findJsonDifference(wanted, one) === undefined);
}

function isOfType(value: unknown, type: NonNullable<JsonExpectation["type"]>): boolean {
  if (type === "null") return value === null;
  if (type === "array") return Array.isArray(value);
  if (type === "object") return isGroup(value);
  return type === "integer" ? Number.isInteger(value) : typeof value === type;
}

function isGroup(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

function show(value: unknown): string {
  const text = JSON.stringify(value) ?? "nothing";
  return text.length > 80 ? `${text.slice(0, 79)}…` : text;
}
