// The server under load. Usage: node server.mjs FOLDER. Tells its port, and on each message what it holds.
import { readdirSync } from "node:fs";
import { createServer } from "node:http";
import { openSite } from "epistyle";
import { nodeHandler } from "epistyle/node";

const [, , folder] = process.argv;
const site = await openSite({
  mounts: [
    {
      folder,
      listing: true,
      codings: { prebuilt: ["br"], compress: true },
      errorPages: { 404: "/404.html" },
    },
  ],
});
const answers = new Map();
const count = ({ answer, delivery }) => {
  const key = delivery.complete ? String(answer.status) : delivery.cutOff;
  answers.set(key, (answers.get(key) ?? 0) + 1);
};
const server = createServer(nodeHandler(site, { onResponse: count }));
server.listen(0, "127.0.0.1", () => process.send({ port: server.address().port }));

process.on("message", () => {
  const { rss, heapUsed, external } = process.memoryUsage();
  const descriptors = readdirSync("/proc/self/fd").length;
  const metrics = site.memory.metrics().map(({ name, used, bound, unit }) => ({ name, used, bound, unit }));
  process.send({ rss, heapUsed, external, descriptors, answers: Object.fromEntries(answers), metrics });
});
process.on("disconnect", () => process.exit());
