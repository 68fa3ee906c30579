/** A longer text is not read, in characters. */
const LONGEST = 64 * 1024 * 1024;
/** Deeper than anything that a person or a program writes. Code that goes through a value may go as deep as the value. */
const DEEPEST = 200;

/** The value, or why the text cannot be read. The reason is the end of a sentence that begins with "a body that" or "it"; `isSyntax` is true for what no program can read. */
export type ReadJson =
  | { readonly ok: true; readonly value: unknown }
  | { readonly ok: false; readonly problem: string; readonly isSyntax: boolean };

/** Reads JSON (RFC 8259) that a stranger wrote: never throws, and never gives a value that is deeper than code can go. */
export function readJson(text: string): ReadJson {
  if (text.length > LONGEST) return { ok: false, problem: "is longer than 64 MiB", isSyntax: false };
  if (isDeep(text))
    return { ok: false, problem: `is nested more than ${DEEPEST} levels deep`, isSyntax: false };
  try {
    return { ok: true, value: JSON.parse(text) };
  } catch {
    return { ok: false, problem: "is not JSON", isSyntax: true };
  }
}

function isDeep(text: string): boolean {
  let depth = 0;
  let inString = false;
  for (let at = 0; at < text.length; at++) {
    const character = text[at];
    if (inString) {
      if (character === "\\") at++;
      else if (character === '"') inString = false;
    } else if (character === '"') inString = true;
    else if (character === "[" || character === "{") {
      if (++depth > DEEPEST) return true;
    } else if (character === "]" || character === "}") depth--;
  }
  return false;
}
