import { Records } from "./records.jsx";
import { SPECIES } from "./species.js";

export default function Bird({ name }) {
  const bird = Object.hasOwn(SPECIES, name) ? SPECIES[name] : undefined;
  if (bird === undefined) return <h1>Not in the fieldbook</h1>;
  return (
    <>
      <h1>{bird.name}</h1>
      <p>
        <i>{bird.latin}</i>. {bird.note}
      </p>
      <Records species={name} />
    </>
  );
}
