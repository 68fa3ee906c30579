import { own } from "../core/text/own.js";
/** How a value looks to the person who wrote it, cut to a length that fits in a sentence. */
export function formatFound(value: unknown): string {
  if (value === undefined || value === null) return "nothing";
  if (typeof value === "function") return "a function";
  const kind = Object.prototype.toString.call(value).slice(8, -1);
  if (kind === "URL") return "a URL";
  const object = own(OBJECTS, kind);
  if (object !== undefined) return object;
  if (typeof value !== "string" && typeof value !== "object") return String(value);
  const text = toJson(value);
  return text.length > 60 ? `${text.slice(0, 57)}...` : text;
}

/** Objects of the language that JSON would show as something else. */
const OBJECTS: Readonly<Record<string, string>> = {
  Date: "a Date",
  Map: "a Map",
  Promise: "a promise",
  RegExp: "a regular expression",
  Set: "a Set",
};

function toJson(value: unknown): string {
  try {
    return JSON.stringify(value);
  } catch {
    return "an object";
  }
}

/** Throws a TypeError where a call needs a path, and was given something else. */
export function checkPath(call: string, value: unknown, example: string): void {
  if (typeof value === "string" && value !== "") return;
  throw new TypeError(`${call}: found ${formatFound(value)} instead of a path; write ${example}.`);
}
