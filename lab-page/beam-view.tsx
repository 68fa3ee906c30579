import type { Beam, CaseOutcome, Stage, StageRow } from "../src/lab/shapes.js";
import { breakable } from "./breakable.js";

interface Props {
  readonly beam: Beam;
  /** Tells two beams of a page apart. */
  readonly name: string;
  /** Stages that decide otherwise than those of the beam above: only these are told in full. */
  readonly changed?: ReadonlySet<string>;
  /** The case that asked, where the answer is not as it expects. */
  readonly failure: CaseOutcome | undefined;
  /** The stage that is open; `""` for none. */
  readonly open: string;
  readonly onOpen: (stage: string) => void;
  readonly onLine: (line: number) => void;
}

/** The beam: the stages from target to answer in one line, each with what it decided; one of them is opened below. */
export function BeamView({ beam, name, changed, failure, open, onOpen, onLine }: Props) {
  const amiss = new Set(failure?.differences.map(({ about }) => stageOf(about)));
  const stage = beam.stages.find(({ name }) => name === open);
  return (
    <section
      class="beam-part"
      aria-label={
        name === "now" ? "How the answer comes about" : "How it would come about with your unsaved changes"
      }
    >
      <ol class={`beam ${beam.tone.replace(" ", "-")}`}>
        {beam.stages.map((one) => (
          <li
            key={one.name}
            class={`is-${one.state.replace(" ", "-")}${changed?.has(one.name) === false ? " is-same" : ""}`}
          >
            <button
              type="button"
              aria-expanded={one.name === open}
              aria-controls={`stage-${name}`}
              disabled={one.rows.length === 0}
              onClick={() => onOpen(one.name === open ? "" : one.name)}
            >
              <span class="name">{titleOf(one.name)}</span>
              {changed?.has(one.name) === false ? <span class="why">as now</span> : <Decided stage={one} />}
              {amiss.has(one.name) && <span class="amiss">not as expected</span>}
            </button>
          </li>
        ))}
      </ol>
      {failure !== undefined && <Unmet failure={failure} />}
      <div id={`stage-${name}`}>{stage !== undefined && <StageDetail stage={stage} onLine={onLine} />}</div>
    </section>
  );
}

function Decided({ stage }: { readonly stage: Stage }) {
  const { decided, why, state } = stage;
  return (
    <>
      <span class="decided" title={decided}>
        {breakable(decided)}
      </span>
      <span class="why">{why}</span>
      {state === "decided" && <span class="mark">decided here</span>}
    </>
  );
}

/** The stage that has a hand in what an expectation is about. */
function stageOf(about: string): string {
  if (/^(?:answered by|redirect|location)$/i.test(about)) return "file";
  if (/^(?:media type|charset|coding|body|content-encoding|vary)/i.test(about)) return "form";
  return "answer";
}

function Unmet({ failure }: { readonly failure: CaseOutcome }) {
  return (
    <div class="unmet" role="status">
      <h2>Not as expected: {failure.name}</h2>
      <table>
        <tbody>
          {failure.differences.map(({ about, expected, got }) => (
            <tr key={about}>
              <th scope="row">{about}</th>
              <td>expected {expected}</td>
              <td>got {got}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {failure.because}
    </div>
  );
}

function StageDetail({ stage, onLine }: { readonly stage: Stage; readonly onLine: (line: number) => void }) {
  return (
    <div class="stage">
      <h2>
        {titleOf(stage.name)}: {stage.decided} <small>{stage.why}</small>
      </h2>
      <div class="scrolls">
        <table>
          <tbody>
            {stage.rows.map((row, index) => (
              <Row row={row} onLine={onLine} key={index} />
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}

function Row({ row, onLine }: { readonly row: StageRow; readonly onLine: (line: number) => void }) {
  const { cells, tone = "", written } = row;
  return (
    <tr class={tone}>
      {cells.map((cell, index) =>
        index === 0 ? (
          <th scope="row" key={index}>
            {cell}
          </th>
        ) : (
          <td key={index}>{cell}</td>
        ),
      )}
      {written !== undefined && (
        <td>
          <button type="button" class="line" onClick={() => onLine(written.line)}>
            line {written.line}
          </button>
        </td>
      )}
    </tr>
  );
}

// RFC 9110 §3.2: what the file is sent as, of its variants and codings.
const titleOf = (stage: string): string => (stage === "form" ? "representation" : stage);
