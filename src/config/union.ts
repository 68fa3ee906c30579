import type * as z from "zod";

type Issue = z.core.$ZodIssue;

// The words that a key may have, where lists are possible, too.
export function choicesOf(branches: readonly (readonly Issue[])[]): unknown[] {
  return branches
    .flat()
    .flatMap((one) => (one.code === "invalid_value" && one.path.length === 0 ? one.values : []));
}

// A value that matches none of the forms of a key.
export function isOfNoForm(branches: readonly (readonly Issue[])[]): boolean {
  return branches
    .flat()
    .every(({ code, path }) => path.length === 0 && (code === "invalid_type" || code === "invalid_value"));
}

// A text was written where a list belongs, and no branch has a word to say of a text.
export function wantsList(branches: readonly (readonly Issue[])[]): boolean {
  const issues = branches.flat();
  const isList = (one: Issue): boolean =>
    one.code === "invalid_type" && one.expected === "array" && one.path.length === 0;
  return (
    issues.some(isList) && issues.every(({ code }) => code === "invalid_type" || code === "invalid_value")
  );
}

// The branch of a union that fits best is the one whose problems lie deepest, or that objects to more than the type.
export function chooseBranch(branches: readonly (readonly Issue[])[]): readonly Issue[] {
  return [...branches].sort((a, b) => scoreBranch(b) - scoreBranch(a))[0] ?? [];
}

function scoreBranch(issues: readonly Issue[]): number {
  const scores = issues.map((issue) => {
    const depth = issue.path.length * 2;
    if (issue.code === "invalid_union") return depth + Math.max(0, ...issue.errors.map(scoreBranch));
    return depth + (issue.code === "invalid_type" || issue.code === "invalid_value" ? 0 : 1);
  });
  return Math.max(...scores);
}
