import { useEffect, useState } from "preact/hooks";
import { AUDIENCES } from "../src/lab/engine/audiences.js";
import type { LabQuestion } from "../src/lab/shapes.js";

const METHODS = ["GET", "HEAD", "OPTIONS", "POST"];

/** The question: method and address, who asks, and fields of one's own. */
export function AskForm({
  question,
  onAsk,
}: {
  readonly question: LabQuestion;
  readonly onAsk: (question: LabQuestion) => void;
}) {
  const [draft, setDraft] = useState(question);
  const [fields, setFields] = useState(writeFields(question.headers));
  useEffect(() => {
    setDraft(question);
    setFields(writeFields(question.headers));
  }, [question]);
  const put = (change: Partial<LabQuestion>): void => {
    const next = { ...draft, ...change, headers: readFields(fields) };
    setDraft(next);
    onAsk(next);
  };
  return (
    <form
      class="ask"
      onSubmit={(event) => {
        event.preventDefault();
        put({});
      }}
    >
      <label>
        Method
        <select value={draft.method} onChange={({ currentTarget }) => put({ method: currentTarget.value })}>
          {[...new Set([...METHODS, draft.method])].map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </label>
      <label class="grows">
        Address
        <input
          id="address"
          accesskey="a"
          value={draft.target}
          spellcheck={false}
          autocomplete="off"
          onInput={({ currentTarget }) => setDraft({ ...draft, target: currentTarget.value })}
        />
      </label>
      <label>
        Asked by
        <select value={draft.as} onChange={({ currentTarget }) => put({ as: currentTarget.value })}>
          {Object.entries(AUDIENCES).map(([key, { label }]) => (
            <option value={key} key={key}>
              {label}
            </option>
          ))}
        </select>
      </label>
      <button type="submit">Ask</button>
      <details class="more">
        <summary>
          {fields.trim() === ""
            ? "Your own fields"
            : `Your own fields: ${fields.trim().split("\n").join("; ")}`}
        </summary>
        <label>
          One a line, such as Range: bytes=0-99
          <textarea
            rows={3}
            spellcheck={false}
            value={fields}
            onInput={({ currentTarget }) => setFields(currentTarget.value)}
          />
        </label>
        <label class="check">
          <input
            type="checkbox"
            checked={draft.behind}
            onChange={({ currentTarget }) => put({ behind: currentTarget.checked })}
          />
          An application stands behind the site
        </label>
      </details>
    </form>
  );
}

function writeFields(headers: Readonly<Record<string, string>>): string {
  return Object.entries(headers)
    .map(([name, value]) => `${name}: ${value}`)
    .join("\n");
}

function readFields(text: string): Record<string, string> {
  const lines = text.split("\n").flatMap((line) => {
    const at = line.indexOf(":");
    return at < 1 ? [] : [[line.slice(0, at).trim(), line.slice(at + 1).trim()] as const];
  });
  return Object.fromEntries(lines);
}
