// What preloads and early hints are worth. Usage: node bench/hints.mjs [--rounds N] [--fresh]. Opens the guide of the demo in Chromium, over HTTP/2 and
// a connection that a proxy slows down, without preloads, with Link alone and with 103; prints the median time to the first paint. --fresh: style
// sheets, scripts and fonts have a lifetime; without, they are asked about each time.
import { execFileSync } from "node:child_process";
import { createHash, createPublicKey } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createSecureServer } from "node:http2";
import { connect, createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { parseArgs } from "node:util";
import { openSite } from "epistyle";
import { loadConfigFile, nodeHandler } from "epistyle/node";
import { chromium } from "playwright-core";
import { CHROMIUM, installChromium, installTestPartners, root } from "../tools/setup.mjs";
import { median } from "./measure.mjs";

const { values } = parseArgs({
  options: { rounds: { type: "string", default: "11" }, fresh: { type: "boolean" } },
});
/** The slowed connection: half a round trip in milliseconds, and bytes a second towards the browser. */
const DELAY_MS = 75;
const BYTES_A_SECOND = 200_000;

installChromium();
installTestPartners();
const folder = mkdtempSync(join(tmpdir(), "epistyle-hints-"));
const at = (name) => join(folder, name);
execFileSync(
  "openssl",
  [
    "req",
    "-x509",
    "-newkey",
    "ec",
    "-pkeyopt",
    "ec_paramgen_curve:prime256v1",
    "-nodes",
    "-days",
    "2",
  ].concat([...["-subj", "/CN=localhost", "-keyout", at("key.pem"), "-out", at("cert.pem")]]),
  { stdio: "ignore" },
);

const { config } = await loadConfigFile(join(root, "demo/epistyle.config.yaml"));
// What is fetched early must still be fresh when the page asks for it.
const caching = [{ files: ["**/*.css", "**/*.js", "**/*.woff2"], policy: { maxAge: "1h" } }];
const mounts = config.mounts.map((mount) => ({ ...mount, ...(values.fresh === true && { caching }) }));
const open = (preloads) => openSite({ ...config, mounts, preloads });
const [plain, linked] = [await open(false), await open(true)];
const ways = {
  "without preloads": nodeHandler(plain),
  "Link on the answer": asNoNavigation(nodeHandler(linked)),
  "Link, and 103 before it": nodeHandler(linked),
};

// Who does not say that a page is opened gets no 103; everything else is the same.
function asNoNavigation(handler) {
  return (request, response) => {
    delete request.headers["sec-fetch-mode"];
    handler(request, response);
  };
}

// A certificate that the browser only puts up with would keep everything out of its cache.
const key = createPublicKey(readFileSync(at("cert.pem"))).export({ type: "spki", format: "der" });
const trusted = `--ignore-certificate-errors-spki-list=${createHash("sha256").update(key).digest("base64")}`;
const browser = await chromium.launch({
  executablePath: CHROMIUM,
  args: ["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run"].concat([
    ...["--disable-background-networking", "--disable-component-update", "--disable-sync", trusted],
  ]),
});
const times = Object.fromEntries(Object.keys(ways).map((name) => [name, []]));
try {
  for (let round = 0; round < Number(values.rounds); round++)
    for (const [name, handler] of shuffle(Object.entries(ways))) times[name].push(await measure(handler));
} finally {
  await browser.close();
  rmSync(folder, { recursive: true, force: true });
}
for (const [name, all] of Object.entries(times))
  console.log(
    `${name.padEnd(26)}${Math.round(median(all))} ms (${Math.round(Math.min(...all))} to ${Math.round(Math.max(...all))})`,
  );

// In another order each time: what the machine does beside us keeps to none.
function shuffle(all) {
  return all
    .map((one) => [Math.random(), one])
    .sort(([a], [b]) => a - b)
    .map(([, one]) => one);
}

async function measure(handler) {
  const server = createSecureServer(
    { cert: readFileSync(at("cert.pem")), key: readFileSync(at("key.pem")) },
    handler,
  );
  await new Promise((done) => server.listen(0, "127.0.0.1", done));
  const proxy = await slowDown(server.address().port);
  const context = await browser.newContext();
  const page = await context.newPage();
  await page.goto(`https://localhost:${proxy.port}/guide/`, { waitUntil: "load" });
  const paint = await page.evaluate(async () => {
    const find = () => performance.getEntriesByName("first-contentful-paint")[0]?.startTime;
    while (find() === undefined) await new Promise((done) => setTimeout(done, 20));
    return find();
  });
  await context.close();
  proxy.close();
  server.close();
  return paint;
}

// Bytes arrive later by the delay, and towards the browser no faster than the line is wide.
function slowDown(target) {
  const sockets = new Set();
  const server = createServer((near) => {
    const far = connect(target, "127.0.0.1");
    // Each direction is a line: what came first goes out first.
    const send = (to, width) => {
      let [freeAt, last] = [0, Promise.resolve()];
      return (chunk) => {
        freeAt =
          Math.max(freeAt, performance.now()) + (width === undefined ? 0 : (chunk.length / width) * 1000);
        const dueAt = freeAt + DELAY_MS;
        last = last.then(() => wait(dueAt - performance.now())).then(() => to.destroyed || to.write(chunk));
      };
    };
    near
      .setNoDelay()
      .on("data", send(far))
      .on("error", () => far.destroy())
      .on("close", () => far.destroy());
    far
      .setNoDelay()
      .on("data", send(near, BYTES_A_SECOND))
      .on("error", () => near.destroy())
      .on("close", () => setTimeout(() => near.destroy(), 500));
    sockets.add(near).add(far);
  });
  return new Promise((done) =>
    server.listen(0, "127.0.0.1", () =>
      done({
        port: server.address().port,
        close() {
          for (const socket of sockets) socket.destroy();
          server.close();
        },
      }),
    ),
  );
}
