// The fieldbook's API. It answers everything below /api, what is missing included, and always in JSON.

const SIGHTINGS = [
  { id: 1, date: "2026-05-14", species: "curlew", count: 12 },
  { id: 2, date: "2026-05-14", species: "redshank", count: 4 },
  { id: 3, date: "2026-06-02", species: "skylark", count: 7 },
  { id: 4, date: "2026-06-09", species: "curlew", count: 3 },
];

/** A handler of a chain: calls `next` for what is not the API's. */
export function answerApi(request, response, next) {
  const { pathname, searchParams } = new URL(request.url, "http://site.invalid");
  if (!/^\/api(?:\/|$)/.test(pathname)) return next();
  const send = (status, value, fields = {}) =>
    response
      .writeHead(status, { "Content-Type": "application/json", "Cache-Control": "no-store", ...fields })
      .end(JSON.stringify(value));
  if (pathname !== "/api/sightings") return send(404, { error: `There is no ${pathname}.` });
  if (request.method !== "GET" && request.method !== "HEAD")
    return send(405, { error: "The records are read only." }, { Allow: "GET, HEAD" });
  const species = searchParams.get("species");
  return send(200, species === null ? SIGHTINGS : SIGHTINGS.filter((one) => one.species === species));
}
