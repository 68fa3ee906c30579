import { Records } from "./records.jsx";

export default function Sightings() {
  return (
    <>
      <h1>Sightings</h1>
      <Records />
    </>
  );
}
