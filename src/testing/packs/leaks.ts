import { removeSpans } from "../../core/text/spans.js";

/** What an answer tells of the machine and the program behind it, in words; undefined when nothing. `text` is a page or a text. */
export function findLeak(text: string): string | undefined {
  const shown = removeSpans(text.slice(0, 64 * 1024), "<", ">", "\n");
  const stack = STACK.exec(shown);
  if (stack !== null) return `the stack of the program: ${shorten(stack[0])}`;
  const path = MACHINE_PATH.exec(shown);
  return path === null ? undefined : `a path of the machine: ${shorten(path[0])}`;
}

// A line of a stack as JavaScript writes it, with a file in it and not a time of day alone; or the head of one as Python does.
const STACK =
  /^[ \t]{0,20}at (?=[^\n]*[./\\])[^\n]{1,300}:\d{1,7}:\d{1,7}\)?\s*$|^Traceback \(most recent call last\)/m;

// Folders that machines have at their roots, with two more below: what an address of a site hardly looks like.
const MACHINE_PATH =
  /(?:\/(?:srv|usr|opt|root|Users|private)|\/var\/(?:www|lib|task|app)|\/home\/[\w.-]{1,64})(?:\/[\w.@+-]{1,100}){2,}|\b[A-Z]:\\(?:[\w.@+ -]{1,100}\\){2,}/;

function shorten(text: string): string {
  const line = text.replace(/\s+/g, " ");
  return line.length > 80 ? `${line.slice(0, 79)}…` : line;
}
