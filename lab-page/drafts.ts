/** What a file says, and whether there is one yet. */
export interface FileText {
  readonly text: string;
  readonly isNew: boolean;
}

/** What was typed and not saved, with what it was made from. */
export interface Draft {
  readonly text: string;
  readonly base: FileText;
}

const PREFIX = "epistyle-lab-draft ";

// A browser may refuse to keep anything; then a text lives as long as its page.
const attempt = <Value>(work: () => Value): Value | undefined => {
  try {
    return work();
  } catch {
    return undefined;
  }
};

/** A text that was typed in this browser and not saved, if there is one. */
export function readDraft(key: string): Draft | undefined {
  const kept = attempt(
    () => JSON.parse(localStorage.getItem(PREFIX + key) ?? "null") as Partial<Draft> | null,
  );
  const { text, base } = kept ?? {};
  return typeof text === "string" && typeof base?.text === "string" ? { text, base } : undefined;
}

export function keepDraft(key: string, draft: Draft): void {
  attempt(() => localStorage.setItem(PREFIX + key, JSON.stringify(draft)));
}

export function forgetDraft(key: string): void {
  attempt(() => localStorage.removeItem(PREFIX + key));
}
