import type { Beam, Stage, StageRow } from "../shapes.js";

interface Props {
  readonly beam: Beam;
  /** The stage that is open; `""` for none. */
  readonly open: string;
  readonly onOpen: (stage: string) => void;
  readonly onLine: (line: number) => void;
}

/** The beam: the stages from target to answer in one line, each with what it decided; one of them is opened below. */
export function BeamView({ beam, open, onOpen, onLine }: Props) {
  const stage = beam.stages.find(({ name }) => name === open);
  return (
    <section class="beam-part" aria-label="How the answer comes about">
      <ol class={`beam ${beam.tone.replace(" ", "-")}`}>
        {beam.stages.map((one) => (
          <li key={one.name} class={`is-${one.state.replace(" ", "-")}`}>
            <button
              type="button"
              aria-expanded={one.name === open}
              aria-controls="stage"
              disabled={one.rows.length === 0}
              onClick={() => onOpen(one.name === open ? "" : one.name)}
            >
              <span class="name">{one.name}</span>
              <span class="decided" title={one.decided}>
                {one.decided}
              </span>
              <span class="why">{one.why}</span>
              {one.state === "decided" && <span class="mark">decided here</span>}
            </button>
          </li>
        ))}
      </ol>
      <div id="stage">{stage !== undefined && <StageDetail stage={stage} onLine={onLine} />}</div>
    </section>
  );
}

function StageDetail({ stage, onLine }: { readonly stage: Stage; readonly onLine: (line: number) => void }) {
  return (
    <div class="stage">
      <h2>
        {stage.name}: {stage.decided} <small>{stage.why}</small>
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
