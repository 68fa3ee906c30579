const BIRDS = { curlew: { name: "Curlew", seen: 12 }, rook: { name: "Rook", seen: 3 } };

/** The page for an address: its status, title and content. */
export function render(path) {
  const key = path.replace(/^\/birds\//, "");
  if (path === "/") {
    const links = Object.entries(BIRDS).map(
      ([bird, { name }]) => `<li><a href="/birds/${bird}">${name}</a></li>`,
    );
    return { status: 200, title: "Larkholm", page: `<h1>Larkholm</h1><ul>${links.join("")}</ul>` };
  }
  if (path.startsWith("/birds/") && Object.hasOwn(BIRDS, key)) {
    const { name, seen } = BIRDS[key];
    return {
      status: 200,
      title: name,
      page: `<h1>${name}</h1><p>Seen <output>${seen}</output> times. <button type="button">Seen again</button></p>`,
    };
  }
  return { status: 404, title: "No such page", page: "<h1>No such page</h1>" };
}
