import { SPECIES } from "./species.js";

/** The front page. Of the picture there are three files; the server sends the best one that the browser reads. */
export function Birds() {
  return (
    <>
      <h1>Birds of Larkholm</h1>
      <img
        src="/pictures/hide.png"
        alt="The sea and the lighthouse, seen from the north hide"
        width="960"
        height="540"
      />
      <ul>
        {Object.entries(SPECIES).map(([key, { name, latin }]) => (
          <li key={key}>
            <a href={`/birds/${key}`}>{name}</a> <i>{latin}</i>
          </li>
        ))}
      </ul>
    </>
  );
}
