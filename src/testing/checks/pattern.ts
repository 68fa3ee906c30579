import { createContext, Script } from "node:vm";

/** For how long a pattern may be compared with one text, in milliseconds. */
export const PATTERN_MS = 1000;

export type PatternOutcome = "matches" | "does not match" | "takes too long";

const held: { pattern: RegExp; text: string } = { pattern: /^/, text: "" };
let search: (() => boolean) | undefined;

/**
 * Holds a pattern against a text that a server sent. A search that goes back over the text again and again is stopped: the text
 * may have been made to keep it busy for ever.
 */
export function holdAgainst(pattern: RegExp, text: string): PatternOutcome {
  search ??= makeSearch();
  Object.assign(held, { pattern, text });
  try {
    return search() ? "matches" : "does not match";
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ERR_SCRIPT_EXECUTION_TIMEOUT") return "takes too long";
    throw error;
  } finally {
    held.text = "";
  }
}

// The platform stops its own script, and the search in it.
function makeSearch(): () => boolean {
  const context = createContext(held);
  const script = new Script("pattern.test(text)");
  return () => script.runInContext(context, { timeout: PATTERN_MS }) as boolean;
}

/** What is said of a pattern that was stopped. */
export const TOOK_TOO_LONG = `a search that was stopped after ${PATTERN_MS / 1000} second: the pattern goes over the text again and again; write one without a repetition inside a repetition`;
