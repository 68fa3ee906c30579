// What many rules cost: the same request, planned in process by a site of one mount and by one of 100 mounts and 1,000 areas.
// Usage: node rules.mjs. Prints the ratio of the medians, and the nanoseconds of a plan.
import { memorySource, openSite } from "epistyle";

const ROUNDS = 21;
const REQUESTS = 40_000;
const tree = Object.fromEntries(
  Array.from({ length: 10 }, (_, i) => [`area-${i}/page.html`, "<h1>page</h1>"]),
);
const source = memorySource(tree);

const one = await openSite({ mounts: [{ at: "/mount-42", source }] });
const many = await openSite({
  mounts: Array.from({ length: 100 }, (_, mount) => ({
    at: `/mount-${mount}`,
    source,
    areas: Object.fromEntries(
      Array.from({ length: 10 }, (_, area) => [
        `/area-${area}`,
        { defaultDocuments: ["page.html"], charset: "utf-8" },
      ]),
    ),
  })),
});

const request = { method: "GET", target: "/mount-42/area-7/page.html", headers: {} };
async function time(site) {
  const started = process.hrtime.bigint();
  for (let i = 0; i < REQUESTS; i++) await site.respond(request);
  return Number(process.hrtime.bigint() - started) / REQUESTS;
}

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];
const turns = { one: [], many: [] };
for (let round = 0; round <= ROUNDS; round++) {
  const [a, b] = [await time(one), await time(many)];
  if (round > 0) {
    turns.one.push(a);
    turns.many.push(b);
  }
}
const ratio = median(turns.many.map((value, i) => value / turns.one[i]));
console.log(JSON.stringify({ ratio, oneNs: median(turns.one), manyNs: median(turns.many) }));
