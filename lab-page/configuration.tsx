import { useEffect, useMemo, useRef, useState } from "preact/hooks";
import type {
  ChangeGroup,
  LabConnection,
  LabInfo,
  LabQuestion,
  LookProgress,
  Preview,
  TextProblem,
} from "../src/lab/shapes.js";
import { completeFrom } from "./completion.js";
import { OtherText, tellSaved, useEdited } from "./edited.js";
import { type Editor, openEditor } from "./editor.js";

interface Props {
  readonly connection: LabConnection;
  readonly info: LabInfo;
  readonly position: { readonly line: number; readonly turn: number } | undefined;
  readonly onAsk: (question: LabQuestion) => void;
  readonly onSaved: () => void;
  /** Called with the text when it can be saved, with undefined when it cannot. */
  readonly onDraft: (text: string | undefined) => void;
}

/** The configuration as text, and what a change of it would do before it is saved. */
export function Configuration({ connection, info, position, onAsk, onSaved, onDraft }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const editor = useRef<Editor | undefined>(undefined);
  const edited = useEdited(
    { text: info.text ?? "", isNew: info.isNew },
    { key: `configuration ${info.about}`, editor },
  );
  const { text, setText } = edited;
  const [preview, setPreview] = useState<Preview>();
  const [told, setTold] = useState("");
  const [isLooking, setLooking] = useState(false);
  const [progress, setProgress] = useState<LookProgress>();
  const saved = info.text ?? "";
  // The schema is the package's own: it stays the same.
  const completion = useMemo(() => completeFrom(info.schema), []);

  useEffect(() => {
    if (info.text === undefined) return;
    const opened = openEditor(place.current!, {
      text,
      label: "Configuration",
      completion,
      onChange: setText,
      onSave: () => save.current(),
    });
    editor.current = opened;
    return () => opened.close();
  }, [completion, info.text === undefined]);

  useEffect(() => {
    if (position !== undefined) editor.current?.showLine(position.line);
  }, [position]);

  useEffect(() => {
    if (info.text === undefined) return;
    const ending = new AbortController();
    setLooking(true);
    setProgress(undefined);
    onDraft(undefined);
    const { signal } = ending;
    const timer = setTimeout(() => {
      connection.preview(text, { signal, onProgress: (now) => !signal.aborted && setProgress(now) }).then(
        (next) => {
          if (signal.aborted) return;
          setLooking(false);
          setPreview(next);
          onDraft(next.kind === "changes" && text !== saved ? text : undefined);
          editor.current?.setProblems(
            next.kind === "problems" ? next.problems : next.warnings,
            next.kind === "problems",
          );
        },
        (error: Error) => {
          // Somebody wrote on: that text is looked at next.
          if (signal.aborted) return;
          setLooking(false);
          setTold(error.message);
        },
      );
    }, 250);
    return () => {
      clearTimeout(timer);
      ending.abort();
    };
  }, [connection, text, saved]);

  const canSave = edited.isChanged && !edited.isOther && preview?.kind !== "problems";
  // The editor was opened long ago: it saves what is true now.
  const save = useRef(() => {});
  save.current = () => {
    if (!info.canSave) return setTold("This lab cannot save: start it with --edit.");
    if (!canSave) return setTold(edited.isChanged ? "This cannot be saved yet." : "Nothing has changed.");
    const sent = edited.toSave();
    connection.save(sent).then(
      (outcome) => {
        if (outcome.ok) edited.saved(sent.text);
        setTold(tellSaved(outcome, "Saved."));
        // Another text of the file is shown at once, too.
        if (outcome.ok || outcome.isOther) onSaved();
      },
      (error: Error) => setTold(error.message),
    );
  };

  if (info.text === undefined)
    return (
      <p class="quiet">This configuration is a module: change it in your own editor, and the lab follows.</p>
    );
  return (
    <>
      <div ref={place} class="editor" />
      <section class="below" aria-label="Outcome" tabIndex={0}>
        <OtherText edited={edited} file="The configuration" />
        <p class="actions">
          {info.canSave && (
            <button type="button" disabled={!canSave} onClick={() => save.current()}>
              Save
            </button>
          )}
          {edited.isChanged && !edited.isOther && (
            <button type="button" onClick={edited.takeTheirs}>
              Discard changes
            </button>
          )}
          <span role="status">
            {told || (info.canSave ? "" : "You can try changes here, but not save them.")}
          </span>
        </p>
        {preview?.kind === "problems" && (
          <Problems problems={preview.problems} onLine={(line) => editor.current?.showLine(line)} />
        )}
        {preview?.kind === "changes" && (
          <>
            <section class="changes" aria-live="polite" aria-busy={isLooking}>
              <h2>{isLooking ? tellLooking(progress) : preview.changes.sentence}</h2>
              {preview.changes.groups.map((group) => (
                <Group group={group} onAsk={onAsk} key={group.words + group.here + group.there} />
              ))}
            </section>
            {preview.warnings.length > 0 && (
              <section>
                <h2>Warnings</h2>
                <Problems problems={preview.warnings} onLine={(line) => editor.current?.showLine(line)} />
              </section>
            )}
          </>
        )}
      </section>
    </>
  );
}

function tellLooking(progress: LookProgress | undefined): string {
  if (progress === undefined) return "Looking at what changes…";
  const [done, total] = [progress.done, progress.total].map((count) => count.toLocaleString("en"));
  return `Looking at what changes… ${done} of ${total} addresses`;
}

function Group({
  group,
  onAsk,
}: {
  readonly group: ChangeGroup;
  readonly onAsk: (question: LabQuestion) => void;
}) {
  const { count, words, here, there, examples } = group;
  return (
    <details open={count < 8}>
      <summary>
        {count} {words}
      </summary>
      {here !== there && (
        <p class="from-to">
          <span>{here}</span> → <span>{there}</span>
        </p>
      )}
      <ul>
        {examples.map((example) => (
          <li key={example}>
            <button
              type="button"
              onClick={() =>
                onAsk({
                  method: "GET",
                  target: example.replace(/ \(.*\)$/, ""),
                  as: "navigation",
                  headers: {},
                  behind: false,
                })
              }
            >
              {example}
            </button>
          </li>
        ))}
        {count > examples.length && <li class="quiet">and {count - examples.length} more</li>}
      </ul>
    </details>
  );
}

export function Problems({
  problems,
  onLine,
}: {
  readonly problems: readonly TextProblem[];
  readonly onLine: (line: number) => void;
}) {
  return (
    <ul class="problems">
      {problems.map(({ text, at }) => (
        <li key={text}>
          {at !== undefined && (
            <button type="button" class="line" onClick={() => onLine(at.line)}>
              line {at.line}
            </button>
          )}{" "}
          {text}
        </li>
      ))}
    </ul>
  );
}
