import { type Automaton, makeAutomaton, type Piece } from "./automaton.js";

/** A file pattern, compiled. Paths have no slash at either end, and are folded as the pattern is. */
export interface Pattern {
  /** True when the pattern means this path. Takes time linear in the path, whatever the pattern. */
  readonly matches: (path: string) => boolean;
  /** True when it means the path, or a directory above it: in one pass. */
  readonly covers: (path: string) => boolean;
}

/** How many patterns may stand behind one with braces. */
export const ALTERNATIVES_AT_MOST = 256;

/**
 * Compiles a pattern: `*` and `?` inside a name, `**` over folders, `[a-z]`, `{a,b}`, and `@(a|b)`, `?(…)`, `*(…)`, `+(…)`; a
 * backslash takes the next character as it is. Without a slash it means a name, in any folder.
 */
export function makePattern(pattern: string, isName: boolean): Pattern {
  const all = expandBraces(pattern).map((one) => makeOne(one, isName));
  const [only] = all;
  if (all.length === 1) return only!;
  return {
    matches: (path) => all.some((one) => one.matches(path)),
    covers: (path) => all.some((one) => one.covers(path)),
  };
}

function makeOne(pattern: string, isName: boolean): Pattern {
  const plain = /^[^\\*?[\](){}|@+!]*$/;
  if (plain.test(pattern)) return isName ? ofNames((name) => name === pattern) : ofPath(pattern);
  const ending = pattern.slice(1);
  if (isName && pattern.startsWith("*") && plain.test(ending))
    return ofNames((name) => name.endsWith(ending));
  const automaton = makeAutomaton(parsePath(pattern));
  return isName ? ofNames((name) => automaton.accepts(name)) : ofAutomaton(automaton);
}

function ofNames(isMeant: (name: string) => boolean): Pattern {
  return {
    matches: (path) => isMeant(path.slice(path.lastIndexOf("/") + 1)),
    covers(path) {
      for (let start = 0; ; ) {
        const end = path.indexOf("/", start);
        if (isMeant(end < 0 ? path.slice(start) : path.slice(start, end))) return true;
        if (end < 0) return false;
        start = end + 1;
      }
    },
  };
}

function ofPath(written: string): Pattern {
  const below = `${written}/`;
  return {
    matches: (path) => path === written,
    covers: (path) => path === written || path.startsWith(below),
  };
}

function ofAutomaton(automaton: Automaton): Pattern {
  return {
    matches: (path) => automaton.accepts(path),
    covers: (path) => automaton.acceptsAbove(path),
  };
}

/** Writes alternatives in braces out. One without a comma is no alternative, and stands as it is. */
export function expandBraces(pattern: string): string[] {
  const group = findBraces(pattern);
  if (group === undefined) return [pattern];
  const outcome: string[] = [];
  for (const choice of group.choices) {
    for (const one of expandBraces(pattern.slice(0, group.start) + choice + pattern.slice(group.end))) {
      outcome.push(one);
      if (outcome.length > ALTERNATIVES_AT_MOST) return outcome;
    }
  }
  return outcome;
}

function findBraces(pattern: string): { start: number; end: number; choices: string[] } | undefined {
  for (let start = 0; start < pattern.length; start++) {
    if (pattern[start] === "\\") start++;
    else if (pattern[start] === "{") {
      const choices = readChoices(pattern, start + 1, ["{", ",", "}"]);
      if (choices !== undefined && choices.parts.length > 1)
        return { start, end: choices.end, choices: choices.parts };
    }
  }
  return undefined;
}

/** The parts between separators up to the closing mark, which may be nested; undefined when it never comes. */
export function readChoices(
  text: string,
  from: number,
  [open, separator, close]: readonly [open: string, separator: string, close: string],
): { readonly parts: string[]; readonly end: number } | undefined {
  const parts: string[] = [];
  let depth = 0;
  let start = from;
  for (let at = from; at < text.length; at++) {
    const character = text[at];
    if (character === "\\") at++;
    else if (character === open) depth++;
    else if (character === close && depth-- === 0) {
      parts.push(text.slice(start, at));
      return { parts, end: at + 1 };
    } else if (character === separator && depth === 0) {
      parts.push(text.slice(start, at));
      start = at + 1;
    }
  }
  return undefined;
}

const SLASH: Piece = { kind: "character", code: 0x2f };
const IN_NAME: Piece = { kind: "name-character" };
const FOLDERS: Piece = { kind: "many", of: [{ kind: "some", of: [IN_NAME] }, SLASH] };
const ALL_BELOW: Piece = { kind: "many", of: [{ kind: "anything" }] };

// `**` as a whole segment stands for any folders, none among them; at the end for everything below, and the folder itself.
function parsePath(pattern: string): Piece[] {
  const segments = splitSegments(pattern).filter(
    (one, index, all) => one !== "**" || all[index - 1] !== "**",
  );
  const pieces: Piece[] = [];
  for (const [index, segment] of segments.entries()) {
    const isLast = index === segments.length - 1;
    if (segment === "**" && isLast) pieces.push(...belowOf(segments[index - 1]));
    else {
      if (index > 0 && segments[index - 1] !== "**") pieces.push(SLASH);
      if (segment === "**") pieces.push(FOLDERS);
      else pieces.push(...parseName(segment));
    }
  }
  return pieces;
}

// `drafts/**` means the folder, too; `*/**` is for what is in folders, and no file at the top.
function belowOf(folder: string | undefined): Piece[] {
  if (folder === undefined) return [ALL_BELOW];
  return folder.endsWith("*") ? [SLASH, ALL_BELOW] : [{ kind: "maybe", of: [SLASH, ALL_BELOW] }];
}

function splitSegments(pattern: string): string[] {
  const segments: string[] = [];
  let start = 0;
  for (let at = 0; at <= pattern.length; at++) {
    if (pattern[at] === "\\") at++;
    else if (at === pattern.length || pattern[at] === "/") {
      segments.push(pattern.slice(start, at));
      start = at + 1;
    }
  }
  return segments;
}

const REPEATS: Readonly<Record<string, "one" | "maybe" | "many" | "some">> = {
  "@": "one",
  "?": "maybe",
  "*": "many",
  "+": "some",
};

function parseName(segment: string): Piece[] {
  const pieces: Piece[] = [];
  for (let at = 0; at < segment.length; at++) {
    const character = segment[at]!;
    const group =
      REPEATS[character] !== undefined && segment[at + 1] === "("
        ? readChoices(segment, at + 2, ["(", "|", ")"])
        : undefined;
    if (group !== undefined) {
      const choice: Piece = { kind: "choice", of: group.parts.map(parseName) };
      const repeat = REPEATS[character]!;
      pieces.push(repeat === "one" ? choice : { kind: repeat, of: [choice] });
      at = group.end - 1;
    } else if (character === "*") {
      if (segment[at - 1] !== "*" || segment[at - 2] === "\\") pieces.push({ kind: "many", of: [IN_NAME] });
    } else if (character === "?") pieces.push(IN_NAME);
    else if (character === "[") {
      const read = readClass(segment, at);
      pieces.push(read?.piece ?? literal(character));
      at = read === undefined ? at : read.end - 1;
    } else if (character === "\\" && at + 1 < segment.length) pieces.push(literal(segment[++at]!));
    else pieces.push(literal(character));
  }
  return pieces;
}

const literal = (character: string): Piece => ({ kind: "character", code: character.charCodeAt(0) });

/** A class of characters in brackets; undefined when it is not closed. One right behind the opening is a member (POSIX.2 §2.13.1). */
export function readClass(
  segment: string,
  from: number,
): { readonly piece: Piece; readonly end: number } | undefined {
  let at = from + 1;
  const negated = segment[at] === "!" || segment[at] === "^";
  if (negated) at++;
  const ranges: [number, number][] = [];
  for (let first = true; at < segment.length; first = false) {
    if (segment[at] === "]" && !first) return { piece: { kind: "class", ranges, negated }, end: at + 1 };
    if (segment[at] === "\\") at++;
    const low = segment.charCodeAt(at++);
    if (segment[at] === "-" && segment[at + 1] !== "]" && at + 1 < segment.length) {
      at++;
      if (segment[at] === "\\") at++;
      ranges.push([low, segment.charCodeAt(at++)]);
    } else ranges.push([low, low]);
  }
  return undefined;
}
