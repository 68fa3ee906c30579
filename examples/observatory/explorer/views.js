const BASE = import.meta.env.BASE_URL;

/** What the API tells; undefined where it has nothing. Rejects when it cannot be asked. */
async function read(path) {
  const response = await fetch(`/api/${path}`);
  if (response.ok) return response.json();
  if (response.status === 404 && /json/.test(response.headers.get("content-type"))) return undefined;
  throw new Error(`The records cannot be read now: ${response.status} for /api/${path}.`);
}

function make(name, properties = {}, ...children) {
  const element = document.createElement(name);
  for (const [key, value] of Object.entries(properties)) element.setAttribute(key, value);
  element.append(...children);
  return element;
}

const link = (path, text) => make("a", { href: BASE + path, "data-route": "" }, text);

function table(rows) {
  const head = make(
    "tr",
    {},
    ...["Date", "Species", "Place", "Birds"].map((text) => make("th", { scope: "col" }, text)),
  );
  const body = rows.map((one) =>
    make(
      "tr",
      {},
      make("td", {}, link(`sightings/${one.id}`, one.date)),
      make("td", {}, link(`species/${encodeURIComponent(one.species)}`, one.species)),
      make("td", {}, one.place),
      make("td", { class: "number" }, String(one.count)),
    ),
  );
  return make("table", {}, make("thead", {}, head), make("tbody", {}, ...body));
}

export async function drawList() {
  const all = await read("sightings");
  const birds = all.reduce((sum, { count }) => sum + count, 0);
  return {
    title: "Sightings explorer",
    content: [
      make("h1", {}, "Every sighting of 2026"),
      make(
        "p",
        {},
        `${all.length} sightings, ${birds.toLocaleString("en-GB")} birds. The latest come first.`,
      ),
      table([...all].reverse()),
    ],
  };
}

export async function drawSpecies(name) {
  const some = (await read("sightings")).filter(({ species }) => species === name);
  if (some.length === 0) return drawMissing(`species/${name}`);
  const most = Math.max(...some.map(({ count }) => count));
  const bars = some.map(({ date, count }) => {
    const bar = make("i", { title: `${date}: ${count}` });
    // A style attribute that a script writes is against the page's policy; a property of its style is not.
    bar.style.height = `${(count / most) * 100}%`;
    return bar;
  });
  return {
    title: name,
    content: [
      make("p", { class: "trail" }, link("", "All sightings")),
      make("h1", {}, name),
      make("p", {}, `Seen ${some.length} times, ${most} birds at most.`),
      make(
        "div",
        { class: "bars", role: "img", "aria-label": `Birds at each of ${some.length} sightings` },
        ...bars,
      ),
      table([...some].reverse()),
    ],
  };
}

export async function drawSighting(id) {
  const one = await read(`sightings/${id}`);
  if (one === undefined) return drawMissing(`sightings/${id}`);
  const facts = [
    ["Date", one.date],
    ["Place", one.place],
    ["Birds", String(one.count)],
  ].map(([term, value]) => make("div", {}, make("dt", {}, term), make("dd", {}, value)));
  return {
    title: `Sighting ${id}`,
    content: [
      make("p", { class: "trail" }, link("", "All sightings")),
      make("h1", {}, `Sighting ${id}`),
      make(
        "p",
        {},
        link(`species/${encodeURIComponent(one.species)}`, one.species),
        " ",
        make("i", {}, one.latin),
      ),
      make("dl", {}, ...facts),
      make(
        "p",
        {},
        link(`sightings/${Number(id) - 1}`, "The one before"),
        " · ",
        link(`sightings/${Number(id) + 1}`, "The one after"),
      ),
    ],
  };
}

export function drawFailure(error) {
  return {
    title: "No records",
    content: [
      make("h1", {}, "No records"),
      make("p", { role: "alert" }, error.message),
      make("p", {}, link("", "Try again")),
    ],
  };
}

export function drawMissing(path) {
  return {
    title: "Not in the records",
    content: [
      make("h1", {}, "Not in the records"),
      make("p", {}, `The explorer has no page “${path}”.`),
      make("p", {}, link("", "All sightings")),
    ],
  };
}
