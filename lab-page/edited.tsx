import { useEffect, useState } from "preact/hooks";
import type { Edited, Saved } from "../src/lab/shapes.js";
import type { Editor } from "./editor.js";

/** What a file says, and whether there is one yet. */
export interface FileText {
  readonly text: string;
  readonly isNew: boolean;
}

/** A text that is edited while its file may change. */
export interface EditedText {
  readonly text: string;
  readonly isChanged: boolean;
  /** The file is not what the text was made from any more. */
  readonly isOther: boolean;
  setText(text: string): void;
  /** What to save, with what it was made from. */
  toSave(): Edited;
  /** Goes on with what was typed, as a change of what the file says now. */
  keepMine(): void;
  /** Gives up what was typed. */
  takeTheirs(): void;
}

/** Follows a file while nothing is typed. What was typed is never lost: whoever typed it decides. */
export function useEdited(file: FileText, editor: { readonly current: Editor | undefined }): EditedText {
  const [text, setText] = useState(file.text);
  const [base, setBase] = useState(file);
  const isOther = file.text !== base.text && text !== base.text && text !== file.text;
  useEffect(() => {
    if (isOther) return;
    if (text === base.text) editor.current?.setText(file.text);
    setBase(file);
  }, [file.text, file.isNew, isOther]);
  return {
    text,
    isChanged: text !== base.text,
    isOther,
    setText,
    toSave: () => ({ text, base: base.isNew ? null : base.text }),
    keepMine: () => setBase(file),
    takeTheirs() {
      setBase(file);
      editor.current?.setText(file.text);
    },
  };
}

/** Says that the file is another one, and offers both ways on. */
export function OtherText({ edited, file }: { readonly edited: EditedText; readonly file: string }) {
  if (!edited.isOther) return null;
  return (
    <div role="alert">
      <p class="problem">{file} was changed elsewhere. What you typed is still here.</p>
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
