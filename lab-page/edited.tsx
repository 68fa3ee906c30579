import { useEffect, useState } from "preact/hooks";
import type { Edited, Saved } from "../src/lab/shapes.js";
import { type FileText, forgetDraft, keepDraft, readDraft } from "./drafts.js";
import type { Editor } from "./editor.js";

/** A text that is edited while its file may change. */
export interface EditedText {
  readonly text: string;
  /** What the file says now. */
  readonly theirs: string;
  readonly isChanged: boolean;
  /** The file is not what the text was made from any more. */
  readonly isOther: boolean;
  setText(text: string): void;
  /** What to save, with what it was made from. */
  toSave(): Edited;
  /** Says that a text was saved: it is what the file says, though the page has not read it again yet. */
  saved(text: string): void;
  /** Goes on with what was typed, as a change of what the file says now. */
  keepMine(): void;
  /** Gives up what was typed. */
  takeTheirs(): void;
}

/**
 * Follows a file while nothing is typed. What was typed is never lost: it is kept in the browser until it is saved or given up, and whoever
 * typed it decides between it and another text of the file. `key` names the file among others.
 */
export function useEdited(
  read: FileText,
  { key, editor }: { readonly key: string; readonly editor: { readonly current: Editor | undefined } },
): EditedText {
  const [{ draft }] = useState(() => ({ draft: readDraft(key) }));
  const [text, setText] = useState(draft?.text ?? read.text);
  const [base, setBase] = useState<FileText>(draft?.base ?? read);
  /** What the file said before it was saved here. */
  const [outdated, setOutdated] = useState<string>();
  const file = read.text === outdated ? base : read;
  useEffect(() => {
    if (read.text !== outdated) setOutdated(undefined);
  }, [read.text]);
  const isChanged = text !== base.text;
  const isOther = file.text !== base.text && isChanged && text !== file.text;
  useEffect(() => {
    if (isOther) return;
    if (!isChanged) editor.current?.setText(file.text);
    setBase(file);
  }, [file.text, file.isNew, isOther]);
  useEffect(() => {
    if (isChanged) keepDraft(key, { text, base });
    else forgetDraft(key);
    if (!isChanged) return;
    const ask = (event: BeforeUnloadEvent): void => event.preventDefault();
    addEventListener("beforeunload", ask);
    return () => removeEventListener("beforeunload", ask);
  }, [key, text, base, isChanged]);
  return {
    text,
    theirs: file.text,
    isChanged,
    isOther,
    setText,
    toSave: () => ({ text, base: base.isNew ? null : base.text }),
    saved(now) {
      if (now !== read.text) setOutdated(read.text);
      setBase({ text: now, isNew: false });
    },
    keepMine: () => setBase(file),
    takeTheirs() {
      setBase(file);
      setText(file.text);
      editor.current?.setText(file.text);
    },
  };
}

/** Says that the file is another one, shows it, and offers both ways on. */
export function OtherText({ edited, file }: { readonly edited: EditedText; readonly file: string }) {
  if (!edited.isOther) return null;
  return (
    <div role="alert">
      <p class="problem">{file} was changed on disk. What you typed is still here.</p>
      <details>
        <summary>Show the file’s text</summary>
        <pre class="theirs">{edited.theirs}</pre>
      </details>
      <p class="actions">
        <button type="button" onClick={edited.keepMine}>
          Keep my text
        </button>
        <button type="button" onClick={edited.takeTheirs}>
          Use the file’s text
        </button>
      </p>
    </div>
  );
}

/** What became of saving, in words. */
export function tellSaved(saved: Saved, done: string): string {
  return saved.ok ? done : saved.problem;
}
