import { useEffect, useState } from "preact/hooks";
import { SPECIES } from "./species.js";

/** Sightings as the API tells them: of one species, or of all. */
export function Records({ species }) {
  const [state, setState] = useState({ text: "Asking for the sightings …" });
  useEffect(() => {
    const ending = new AbortController();
    const query = species === undefined ? "" : `?species=${species}`;
    read(`/api/sightings${query}`, ending.signal).then(
      (rows) => setState({ rows }),
      (error) => !ending.signal.aborted && setState({ text: error.message }),
    );
    return () => ending.abort();
  }, [species]);
  if (state.rows === undefined) return <p role="status">{state.text}</p>;
  return (
    <table>
      <thead>
        <tr>
          <th scope="col">Date</th>
          <th scope="col">Bird</th>
          <th scope="col">Count</th>
        </tr>
      </thead>
      <tbody>
        {state.rows.map(({ id, date, species: key, count }) => (
          <tr key={id}>
            <td>{date}</td>
            <td>
              <a href={`/birds/${key}`}>{SPECIES[key]?.name ?? key}</a>
            </td>
            <td class="number">{count}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

async function read(address, signal) {
  const response = await fetch(address, { signal }).catch(() => undefined);
  signal.throwIfAborted();
  if (response?.ok) return response.json();
  throw new Error("The sightings cannot be read now. Try again in a moment.");
}
