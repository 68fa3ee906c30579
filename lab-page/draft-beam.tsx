import { useEffect, useState } from "preact/hooks";
import type { Beam, LabConnection, LabQuestion } from "../src/lab/shapes.js";
import { BeamView } from "./beam-view.js";

/** The answer that the unsaved configuration would give; undefined without one. */
export function useDraftBeam(
  connection: LabConnection,
  question: LabQuestion,
  { draft, version }: { readonly draft: string | undefined; readonly version: number },
): Beam | undefined {
  const [beam, setBeam] = useState<Beam>();
  useEffect(() => {
    setBeam(undefined);
    if (draft === undefined) return;
    let isWanted = true;
    connection.askDraft(draft, question).then(
      (answer) => isWanted && setBeam(answer),
      // What fails is told by the question about the present configuration.
      () => {},
    );
    return () => {
      isWanted = false;
    };
  }, [connection, question, draft, version]);
  return beam;
}

interface Props {
  readonly now: Beam;
  readonly draft: Beam;
  /** The answer below is that of the draft. */
  readonly isShown: boolean;
  readonly onShow: (isShown: boolean) => void;
  readonly onLine: (line: number) => void;
}

/** The beam of the unsaved configuration below the present one, and which of the two answers is shown. */
export function DraftBeam({ now, draft, isShown, onShow, onLine }: Props) {
  const [open, setOpen] = useState("");
  const changed = findChanged(now, draft);
  const fields = findOtherFields(now, draft);
  if (changed.size === 0 && fields.length === 0)
    return <p class="draft quiet">Your unsaved changes do not change this answer.</p>;
  return (
    <div class="draft">
      <h2>
        With your unsaved changes: {draft.status}{" "}
        <small>
          {draft.answer}
          {draft.status === now.status && fields.length > 0 && `, with other ${fields.join(", ")}`}
        </small>
      </h2>
      <BeamView
        beam={draft}
        name="draft"
        changed={changed}
        failure={undefined}
        open={open}
        onOpen={setOpen}
        onLine={onLine}
      />
      <fieldset class="which">
        <legend>Show below</legend>
        {[false, true].map((one) => (
          <label key={String(one)}>
            <input type="radio" name="which" checked={isShown === one} onChange={() => onShow(one)} />
            {one ? "the answer with your changes" : "the present answer"}
          </label>
        ))}
      </fieldset>
    </div>
  );
}

// The same line of the file may have another number in the draft: that is no change.
function findChanged(now: Beam, draft: Beam): Set<string> {
  const told = new Map(now.stages.map(({ name, decided, why, state }) => [name, decided + why + state]));
  return new Set(
    draft.stages
      .filter(({ name, decided, why, state }) => told.get(name) !== decided + why + state)
      .map(({ name }) => name),
  );
}

/** Names of the header fields that one has and the other has not, or has with another value. */
function findOtherFields(now: Beam, draft: Beam): string[] {
  const tell = ({ fields }: Beam): Map<string, string> => {
    const told = new Map<string, string>();
    for (const { name, value } of fields) told.set(name, `${told.get(name) ?? ""}${value}\n`);
    return told;
  };
  const [before, after] = [tell(now), tell(draft)];
  return [...new Set([...before.keys(), ...after.keys()])].filter(
    (name) => before.get(name) !== after.get(name),
  );
}
