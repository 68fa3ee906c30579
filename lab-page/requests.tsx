import { useEffect, useRef, useState } from "preact/hooks";
import type { LabConnection, LabInfo, LabQuestion, Watched } from "../src/lab/shapes.js";

interface Props {
  readonly connection: LabConnection;
  readonly info: LabInfo;
  readonly onAsk: (question: LabQuestion) => void;
  readonly onSaved: () => void;
}

const KEPT = 200;

/** Requests as they come. Any of them is asked again, and shown on the beam. */
export function Requests({ connection, info, onAsk, onSaved }: Props) {
  const [requests, setRequests] = useState<readonly Watched[]>([]);
  // The page asks something else by now than when the watch began.
  const changed = useRef(onSaved);
  changed.current = onSaved;
  useEffect(
    () =>
      connection.watch(
        (watched) =>
          setRequests((before) => [watched, ...before.filter(({ id }) => id !== watched.id)].slice(0, KEPT)),
        () => changed.current(),
      ),
    [connection],
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
      {requests.length === 0 && <p class="quiet">No request came yet.</p>}
      <ul class="watched">
        {requests.map((one) => (
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
