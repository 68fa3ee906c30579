const BIRDS = { curlew: { name: "Curlew", seen: 12 }, rook: { name: "Rook", seen: 3 } };

/** The page for a path: its title and content; undefined where there is none. */
export function render(path) {
  if (path === "/") {
    const links = Object.entries(BIRDS).map(
      ([bird, { name }]) => `<li><a href="/birds/${bird}">${name}</a></li>`,
    );
    return { title: "Larkholm", content: `<h1>Larkholm</h1><ul>${links.join("")}</ul>` };
  }
  if (path === "/404") return { title: "No such page", content: "<h1>No such page</h1>" };
  const bird = /^\/birds\/(\w+)$/.exec(path)?.[1];
  if (bird === undefined || !Object.hasOwn(BIRDS, bird)) return undefined;
  const { name, seen } = BIRDS[bird];
  const weeks = Array.from(
    { length: 52 },
    (_, week) => `<tr><th scope="row">Week ${week + 1}</th><td>${(week * seen) % 7}</td></tr>`,
  );
  return {
    title: name,
    content: `<h1>${name}</h1><p>Seen <output>${seen}</output> times. <button type="button">Seen again</button></p>
<table><thead><tr><th scope="col">Week</th><th scope="col">Birds</th></tr></thead><tbody>${weeks.join("")}</tbody></table>`,
  };
}
