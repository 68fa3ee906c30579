import { useState } from "preact/hooks";
import type { Beam, BodyView, FieldRow } from "../src/lab/shapes.js";
import { formatBytes } from "./format.js";

interface Props {
  readonly beam: Beam;
  readonly onLine: (line: number) => void;
  readonly onTarget: (target: string) => void;
  /** Makes a case of the answer; undefined where there are no expectations. */
  readonly expect: (() => Promise<string>) | undefined;
}

/** What hangs from the beam: what answers and why, what to do, the fields, what would answer otherwise, and the body. */
export function AnswerView({ beam, onLine, onTarget, expect }: Props) {
  const [told, setTold] = useState("");
  const { status, answer, why, hints, fields, otherwise, body, tone } = beam;
  const location = fields.find(({ name }) => name === "Location")?.value;
  return (
    <div class="answer">
      <section aria-live="polite">
        <h2 class={`status ${tone.replace(" ", "-")}`}>
          {status} <small>{answer}</small>
        </h2>
        <p class="because">{why}.</p>
        {hints.map((hint) => (
          <p class="hint" key={hint}>
            {hint}
          </p>
        ))}
        <p class="actions">
          {location?.startsWith("http") === false && (
            <button
              type="button"
              onClick={() =>
                onTarget(new URL(location, `http://site.invalid${beam.request.target}`).pathname)
              }
            >
              Follow to {location}
            </button>
          )}
          {expect !== undefined && (
            <button
              type="button"
              onClick={() => {
                expect().then(
                  (text) => {
                    dispatchEvent(new CustomEvent("lab-case", { detail: text }));
                    setTold("The case was added at the end of the expectations.");
                  },
                  (error: Error) => setTold(error.message),
                );
              }}
            >
              Expect this answer
            </button>
          )}
          <span role="status">{told}</span>
        </p>
      </section>
      <Fields fields={fields} onLine={onLine} />
      {otherwise.length > 0 && (
        <section>
          <h3>If it were not there</h3>
          <table>
            <thead>
              <tr>
                <th scope="col">without</th>
                <th scope="col">would answer</th>
                <th scope="col">since</th>
              </tr>
            </thead>
            <tbody>
              {otherwise.map(({ without, status: then, answer: by, why: since }) => (
                <tr key={without}>
                  <th scope="row">{without}</th>
                  <td>
                    {then}, {by}
                  </td>
                  <td>{since}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      <section>
        <h3>Sent by the client</h3>
        <dl class="request">
          {Object.entries(beam.request.headers).map(([name, value]) => (
            <div key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
      </section>
      <section>
        <h3>Body</h3>
        <Body body={body} />
      </section>
    </div>
  );
}

function Fields({
  fields,
  onLine,
}: {
  readonly fields: readonly FieldRow[];
  readonly onLine: (line: number) => void;
}) {
  if (fields.length === 0) return null;
  return (
    <section>
      <h3>Header fields</h3>
      <div class="scrolls">
        <table class="fields">
          <thead>
            <tr>
              <th scope="col">field</th>
              <th scope="col">value</th>
              <th scope="col">set by</th>
            </tr>
          </thead>
          <tbody>
            {fields.map(({ name, value, because, written }) => (
              <tr key={`${name}: ${value}`}>
                <th scope="row">{name}</th>
                <td class="value">{value}</td>
                <td>
                  {because}{" "}
                  {written !== undefined && (
                    <button type="button" class="line" onClick={() => onLine(written.line)}>
                      line {written.line}
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function Body({ body }: { readonly body: BodyView }) {
  switch (body.kind) {
    case "none":
      return <p class="quiet">None: {body.why}.</p>;
    case "picture":
      return (
        <figure>
          <img src={body.url} alt="The body of the answer" />
          <figcaption>{formatBytes(body.sizeBytes)}</figcaption>
        </figure>
      );
    case "text":
      return (
        <>
          <p class="quiet">
            {formatBytes(body.sizeBytes)}
            {body.isCut ? ", only the beginning" : ""}
          </p>
          <pre tabIndex={0}>{body.text}</pre>
        </>
      );
    case "bytes":
      return (
        <>
          <p class="quiet">{formatBytes(body.sizeBytes)}; the first of them:</p>
          <pre tabIndex={0}>{body.rows.join("\n")}</pre>
        </>
      );
  }
}
