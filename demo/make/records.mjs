// The season's records: sightings, ringing, effort by month, and the places they were made at.
import { makeRandom } from "./sounds.mjs";
import { species } from "./species.mjs";

export const places = [
  { id: "north-hide", name: "North hide", at: [-16.2104, 59.9071] },
  { id: "spit", name: "The spit", at: [-16.2021, 59.9018] },
  { id: "wet-meadow", name: "Wet meadow", at: [-16.2158, 59.9003] },
  { id: "lighthouse", name: "Lighthouse", at: [-16.1987, 59.9092] },
  { id: "walled-garden", name: "Walled garden", at: [-16.2126, 59.9034] },
];

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
const SHAPE = [0.35, 0.4, 0.75, 1.1, 1.5, 1.35, 1.0, 1.4, 1.7, 1.3, 0.6, 0.4];

export function makeSightings() {
  const random = makeRandom(2026);
  const rows = [];
  for (let day = 0; day < 300; day += 2) {
    const date = new Date(Date.UTC(2026, 0, 3 + day));
    const bird = species[Math.floor(random() * species.length)];
    const place = places[Math.floor(random() * places.length)];
    const count = 1 + Math.floor(random() ** 2 * 40 * SHAPE[date.getUTCMonth()]);
    rows.push({
      date: date.toISOString().slice(0, 10),
      species: bird.name,
      latin: bird.latin,
      place: place.name,
      count,
    });
  }
  return rows;
}

export function makeRinging() {
  const random = makeRandom(411);
  const birds = species.filter(({ group }) => group === "songbirds" || group === "waders");
  return Array.from({ length: 60 }, (_, i) => {
    const bird = birds[Math.floor(random() * birds.length)];
    const date = new Date(Date.UTC(2026, 3 + Math.floor(i / 12), 1 + Math.floor(random() * 28)));
    return {
      ring: `LK${String(40_100 + i)}`,
      date: date.toISOString().slice(0, 10),
      species: bird.name,
      age: random() < 0.4 ? "first year" : "adult",
      wing_mm: 60 + Math.floor(random() * 90),
      net: `N${1 + Math.floor(random() * 6)}`,
    };
  });
}

export function makeSeason() {
  return {
    season: 2026,
    hoursInTheField: 1184,
    months: MONTHS.map((month, i) => ({ month, birds: Math.round(420 * SHAPE[i] + i * 3) })),
    species: species.map(({ name, latin, group, count }) => ({ name, latin, group, count })),
  };
}

export function makePlaces() {
  return {
    type: "FeatureCollection",
    features: places.map(({ id, name, at }) => ({
      type: "Feature",
      id,
      properties: { name },
      geometry: { type: "Point", coordinates: at },
    })),
  };
}

export function formatCsv(rows) {
  const keys = Object.keys(rows[0]);
  return `${[keys, ...rows.map((row) => keys.map((key) => row[key]))].map((cells) => cells.join(",")).join("\r\n")}\r\n`;
}
