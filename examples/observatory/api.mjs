// The observatory's JSON API: what an application has beside its files. Answers everything below /api, misses included.
import { readFile } from "node:fs/promises";
import { fileURLToPath } from "node:url";

const CSV = fileURLToPath(new URL("../../demo/site/records/2026/sightings.csv", import.meta.url));

const [head, ...lines] = (await readFile(CSV, "utf8")).trim().split("\r\n");
const keys = head.split(",");
/** All sightings, the oldest first. */
export const sightings = lines.map((line, index) => {
  const cells = line.split(",");
  const record = Object.fromEntries(keys.map((key, i) => [key, cells[i]]));
  return { id: index + 1, ...record, count: Number(record.count) };
});

export function answerApi(request, response) {
  const { pathname, searchParams } = new URL(request.url, "http://localhost");
  const [, , resource, id] = pathname.split("/");
  const send = (status, value) => {
    response.writeHead(status, { "Content-Type": "application/json", "Cache-Control": "no-store" });
    response.end(JSON.stringify(value));
  };
  if (request.method !== "GET") return send(405, { error: "The records are read only." });
  if (resource !== "sightings") return send(404, { error: `There is no ${pathname}.` });
  if (id === undefined) {
    const species = searchParams.get("species");
    return send(200, species === null ? sightings : sightings.filter((one) => one.species === species));
  }
  const found = sightings[Number(id) - 1];
  return found === undefined ? send(404, { error: `There is no sighting ${id}.` }) : send(200, found);
}
