import { ALTERNATIVES_AT_MOST, expandBraces, readChoices, readClass } from "./pattern.js";

/** The longest pattern that is taken, in characters. */
const LENGTH_AT_MOST = 1000;

/** What is wrong with a pattern, and what to write instead; undefined when it can be used. */
export function findPatternProblem(pattern: string): string | undefined {
  if (pattern.length > LENGTH_AT_MOST) return `a pattern has at most ${LENGTH_AT_MOST} characters`;
  if (pattern.startsWith("!"))
    return `a pattern cannot start with "!", which would reverse it: write ${JSON.stringify(pattern.slice(1) || "*.bak")}, or escape it as "\\!"`;
  if (/(?<!\\)!\(/.test(pattern))
    return 'a pattern cannot leave names out with "!(": write the names that are meant, or another rule before this one';
  if (/(?<!\\)\{[^{},]*\.\.[^{},]*\}/.test(pattern))
    return "a pattern has no number ranges: write {1,2,3} instead of {1..3}";
  const plain = pattern.replace(/^\//, "").split("/");
  if (plain.some((one) => one === "." || one === ".."))
    return `a pattern is a path from the mount's folder, without "." and "..": write ${JSON.stringify(plain.filter((one) => one !== "." && one !== "..").join("/") || "**")}`;
  if (/(?<!\\)(?:\\\\)*\\[A-Za-z0-9]/.test(pattern))
    return `a backslash takes the next character literally; folders are separated by slashes: write ${JSON.stringify(pattern.replace(/^[A-Za-z]:/, "").replaceAll("\\", "/"))}`;
  const unclosed = findUnclosed(pattern);
  if (unclosed !== undefined) return unclosed;
  if (expandBraces(pattern).length > ALTERNATIVES_AT_MOST)
    return `the braces stand for more than ${ALTERNATIVES_AT_MOST} patterns: write fewer alternatives, or "*"`;
  return undefined;
}

// What is not closed would mean another name than the one that is meant.
function findUnclosed(pattern: string): string | undefined {
  let depth = 0;
  for (let at = 0; at < pattern.length; at++) {
    const character = pattern[at]!;
    const rest = pattern.slice(at).replace(/\/.*$/s, "");
    if (character === "\\") at++;
    else if (character === "[") {
      const read = readClass(rest, 0);
      if (read === undefined) return notClosed("bracket", character, "[a-z]");
      at += read.end - 1;
    } else if (character === "{") {
      if (readChoices(pattern, at + 1, ["{", ",", "}"]) === undefined)
        return notClosed("brace", character, "*.{bak,old}");
      depth++;
    } else if (/^[@?*+]\(/.test(rest)) {
      if (readChoices(rest, 2, ["(", "|", ")"]) === undefined)
        return notClosed("group", `${character}(`, "@(bak|old)");
      at++;
    } else if (character === "}" && depth-- === 0) return notOpened("brace", character);
    else if (character === "]") return notOpened("bracket", character);
  }
  return undefined;
}

const notClosed = (what: string, character: string, example: string): string =>
  `the ${what} "${character}" is not closed: write it as ${JSON.stringify(example)}, or "\\${character}" for the character itself`;

const notOpened = (what: string, character: string): string =>
  `the ${what} "${character}" closes nothing: remove it, or write "\\${character}" for the character itself`;
