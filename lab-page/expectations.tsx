import { useEffect, useRef, useState } from "preact/hooks";
import type { CaseOutcome, CheckOutcome, LabConnection, LabInfo, LabQuestion } from "../src/lab/shapes.js";
import { Problems } from "./configuration.js";
import { OtherText, tellSaved, useEdited } from "./edited.js";
import { type Editor, openEditor } from "./editor.js";

interface Props {
  readonly connection: LabConnection;
  readonly info: LabInfo;
  readonly onAsk: (question: LabQuestion, failed?: CaseOutcome) => void;
  /** The file is another one than before: it is read again. */
  readonly onSaved: () => void;
}

const BEGINNING = "version: 1\ncases:\n";

/** The expectations as text, run as they are written. */
export function Expectations({ connection, info, onAsk, onSaved }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const editor = useRef<Editor | undefined>(undefined);
  const saved = info.expectations?.text ?? "";
  const edited = useEdited(
    { text: saved, isNew: info.expectations?.isNew ?? true },
    { key: `expectations ${info.expectations?.file}`, editor },
  );
  const { text, setText } = edited;
  const [outcome, setOutcome] = useState<CheckOutcome>();
  const [told, setTold] = useState("");

  useEffect(() => {
    const opened = openEditor(place.current!, {
      text,
      label: "Expectations",
      onChange: setText,
      onSave: () => save.current(),
    });
    editor.current = opened;
    const add = (event: Event): void => {
      const written = (event as CustomEvent<string>).detail;
      const before = opened.text().trim() === "" ? BEGINNING : opened.text().replace(/\n*$/, "\n");
      opened.setText(before + indent(written, before));
      opened.showLine(before.split("\n").length);
    };
    addEventListener("lab-case", add);
    return () => {
      removeEventListener("lab-case", add);
      opened.close();
    };
  }, []);

  useEffect(() => {
    if (text.trim() === "") return setOutcome(undefined);
    const timer = setTimeout(() => {
      connection.check(text).then(
        (next) => {
          setOutcome(next);
          editor.current?.setProblems(
            next.kind === "problems" ? next.problems : failuresOf(next.cases),
            true,
          );
        },
        (error: Error) => setTold(error.message),
      );
    }, 400);
    return () => clearTimeout(timer);
  }, [connection, text, info]);

  const save = useRef(() => {});
  save.current = () => {
    if (!info.canSave) return setTold("This lab cannot save: start it with --edit.");
    if (!edited.isChanged || edited.isOther) return;
    const sent = edited.toSave();
    connection.saveExpectations(sent).then(
      (done) => {
        if (done.ok) edited.saved(sent.text);
        setTold(tellSaved(done, `Saved to ${info.expectations?.file}.`));
        if (done.ok || done.isOther) onSaved();
      },
      (error: Error) => setTold(error.message),
    );
  };

  return (
    <>
      <div ref={place} class="editor" />
      <section class="below" aria-label="Outcome" tabIndex={0}>
        <OtherText edited={edited} file={info.expectations?.file ?? "The file"} />
        <p class="actions">
          {info.canSave && (
            <button
              type="button"
              disabled={!edited.isChanged || edited.isOther}
              onClick={() => save.current()}
            >
              Save
            </button>
          )}
          <span role="status">{told || info.expectations?.file}</span>
        </p>
        {outcome === undefined && (
          <p class="quiet">Nothing is expected yet. Ask for an address, and choose “Expect this answer”.</p>
        )}
        {outcome?.kind === "problems" && (
          <Problems problems={outcome.problems} onLine={(line) => editor.current?.showLine(line)} />
        )}
        {outcome?.kind === "results" && <Results cases={outcome.cases} sum={outcome.sum} onAsk={onAsk} />}
      </section>
    </>
  );
}

// A case stands as deep as those before it do.
function indent(written: string, before: string): string {
  const [, blanks = "  "] = /\n( *)- [^\n]*(?:\n(?! *- )[^\n]*)*\n$/.exec(before) ?? [];
  return written
    .trimEnd()
    .split("\n")
    .map((line) => `${blanks}${line}\n`)
    .join("");
}

function isWrong({ outcome }: CaseOutcome): boolean {
  return outcome === "failed" || outcome === "unanswered";
}

/** What a case is that neither passed nor failed. */
const OTHERWISE: Partial<Record<CaseOutcome["outcome"], string>> = {
  skipped: "skipped",
  advised: "advice",
  known: "known to fail",
};

function failuresOf(cases: readonly CaseOutcome[]) {
  return cases.filter(isWrong).map((one) => ({ text: tell(one), at: one.at }));
}

function tell({ differences, because }: CaseOutcome): string {
  const told = differences.map(({ about, expected, got }) => `${about}: expected ${expected}, got ${got}`);
  return [...told, ...(because === "" ? [] : [because])].join("\n");
}

function Results({
  cases,
  sum,
  onAsk,
}: {
  readonly cases: readonly CaseOutcome[];
  readonly sum: string;
  readonly onAsk: Props["onAsk"];
}) {
  const wrong = cases.filter(isWrong);
  return (
    <section aria-live="polite">
      <h2 class={wrong.length > 0 ? "bad" : "good"}>{sum}</h2>
      <ul class="cases">
        {[...wrong, ...cases.filter((one) => !isWrong(one))].map((one, index) => (
          <li
            class={isWrong(one) ? "failed" : one.outcome === "passed" ? "held" : "other"}
            key={`${one.name} ${index}`}
          >
            <button
              type="button"
              onClick={() =>
                onAsk(
                  {
                    method: one.question.method,
                    target: one.question.path,
                    as: "itself",
                    headers: one.question.headers,
                    behind: false,
                  },
                  isWrong(one) ? one : undefined,
                )
              }
            >
              {one.name}
            </button>
            {OTHERWISE[one.outcome] !== undefined && <i>{OTHERWISE[one.outcome]}</i>}
            {one.outcome !== "passed" && tell(one) !== "" && <pre>{tell(one)}</pre>}
          </li>
        ))}
      </ul>
    </section>
  );
}
