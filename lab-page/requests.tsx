import { useState } from "preact/hooks";
import type { LabInfo, LabQuestion, Watched } from "../src/lab/shapes.js";

interface Props {
  readonly info: LabInfo;
  readonly requests: readonly Watched[];
  readonly onAsk: (question: LabQuestion) => void;
}

/** Which answers are shown, by the first digit of their status. */
const FILTERS = { all: "all", 2: "2xx", 3: "3xx", 4: "4xx", 5: "5xx", other: "other" } as const;
type Filter = keyof typeof FILTERS;

/** Requests as they come. Any of them is asked again, and shown on the beam. */
export function Requests({ info, requests, onAsk }: Props) {
  const [filter, setFilter] = useState<Filter>("all");
  const [text, setText] = useState("");
  const words = text.trim().toLowerCase();
  const shown = requests.filter(
    ({ status, method, target, outcome }) =>
      (filter === "all" ||
        (filter === "other" ? !/^[2-5]/.test(status) : status.startsWith(String(filter)))) &&
      `${method} ${target} ${status} ${outcome}`.toLowerCase().includes(words),
  );
  return (
    <>
      <p class="quiet">
        What{" "}
        <a href={info.address} target="epistyle-site" rel="noopener noreferrer">
          {info.address}
        </a>{" "}
        answers, the newest first. Choose one to ask it again.
      </p>
      <p class="filter">
        <label>
          Status
          <select
            value={String(filter)}
            onChange={({ currentTarget }) => setFilter(currentTarget.value as Filter)}
          >
            {Object.entries(FILTERS).map(([key, label]) => (
              <option value={key} key={key}>
                {label}
              </option>
            ))}
          </select>
        </label>
        <label class="grows">
          Text
          <input type="search" value={text} onInput={({ currentTarget }) => setText(currentTarget.value)} />
        </label>
      </p>
      <p class="quiet" role="status">
        {requests.length === 0
          ? "No request came yet."
          : shown.length === requests.length
            ? ""
            : `${shown.length} of ${requests.length}`}
      </p>
      <ul class="watched">
        {shown.map((one) => (
          <li key={one.id} class={Number(one.status) >= 400 ? "refused" : ""}>
            <button
              type="button"
              onClick={() =>
                onAsk({
                  method: one.method,
                  target: one.target,
                  as: "itself",
                  headers: one.headers,
                  behind: false,
                })
              }
            >
              <time>{new Date(one.at).toTimeString().slice(0, 8)}</time> <b>{one.status}</b> {one.method}{" "}
              {one.target}
            </button>
            <span class="quiet">
              {one.outcome}, {one.milliseconds} ms
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
