import { distance } from "fastest-levenshtein";

/** The nearest of the known names, when it is near enough to be what was meant. */
export function suggestName(name: string, known: readonly string[]): string | undefined {
  const ranked = known
    .map((candidate) => ({ candidate, steps: countSteps(name.toLowerCase(), candidate.toLowerCase()) }))
    .sort((a, b) => a.steps - b.steps);
  const best = ranked[0];
  return best !== undefined && best.steps <= Math.max(1, Math.floor(name.length / 3))
    ? best.candidate
    : undefined;
}

// Letters in the wrong order are one slip.
function countSteps(a: string, b: string): number {
  const sameLetters = a.length === b.length && [...a].sort().join("") === [...b].sort().join("");
  return sameLetters && a !== b ? 1 : distance(a, b);
}
