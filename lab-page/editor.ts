import { autocompletion, type CompletionSource } from "@codemirror/autocomplete";
import { indentWithTab } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, lintGutter, setDiagnostics } from "@codemirror/lint";
import { EditorView, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { minimalSetup } from "codemirror";
import type { TextProblem } from "../src/lab/shapes.js";
import { isKey } from "./completion.js";

/** A text that is edited, and what is wrong with it. */
export interface Editor {
  text(): string;
  setText(text: string): void;
  showLine(line: number): void;
  setProblems(problems: readonly TextProblem[], areErrors: boolean): void;
  close(): void;
}

export interface EditorOptions {
  readonly text: string;
  /** For who does not see it. */
  readonly label: string;
  readonly completion?: CompletionSource;
  readonly onChange: (text: string) => void;
  /** Called for Ctrl+S, or Cmd+S. */
  readonly onSave: () => void;
}

const COLOURS = HighlightStyle.define([
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: "var(--sea)" },
  { tag: [tags.comment, tags.lineComment], color: "var(--quiet)" },
  { tag: [tags.bool, tags.number, tags.null], color: "var(--gorse)" },
]);

/** Opens an editor of YAML in an element. */
export function openEditor(
  parent: HTMLElement,
  { text, label, completion, onChange, onSave }: EditorOptions,
): Editor {
  const view = new EditorView({
    parent,
    doc: text,
    extensions: [
      minimalSetup,
      lineNumbers(),
      lintGutter(),
      yaml(),
      syntaxHighlighting(COLOURS),
      keymap.of([
        indentWithTab,
        {
          key: "Mod-s",
          preventDefault: true,
          run() {
            onSave();
            return true;
          },
        },
      ]),
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ "aria-label": label, spellcheck: "false", accesskey: "e" }),
      ...(completion === undefined
        ? []
        : [autocompletion({ override: [completion], icons: false, activateOnCompletion: isKey })]),
      EditorView.updateListener.of((update) => {
        if (update.docChanged) onChange(update.state.doc.toString());
      }),
    ],
  });
  // Who uses the keyboard can scroll it, too, without writing into it.
  view.scrollDOM.tabIndex = 0;
  return {
    text: () => view.state.doc.toString(),
    setText(next) {
      if (next === view.state.doc.toString()) return;
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: next } });
    },
    showLine(line) {
      const { doc } = view.state;
      const at = doc.line(Math.min(Math.max(1, line), doc.lines));
      view.dispatch({
        selection: { anchor: at.from, head: at.to },
        effects: EditorView.scrollIntoView(at.from, { y: "center" }),
      });
      view.focus();
    },
    setProblems(problems, areErrors) {
      const { doc } = view.state;
      const diagnostics = problems.flatMap(({ text: message, at }): Diagnostic[] => {
        if (at === undefined || at.line > doc.lines) return [];
        const line = doc.line(at.line);
        const from = Math.min(line.from + at.column - 1, line.to);
        return [{ from, to: line.to, severity: areErrors ? "error" : "warning", message }];
      });
      view.dispatch(setDiagnostics(view.state, diagnostics));
    },
    close: () => view.destroy(),
  };
}
