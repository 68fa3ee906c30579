import { utimesSync } from "node:fs";
import { join } from "node:path";
import { afterAll, afterEach, expect, test } from "vitest";
import { startServer } from "../src/adapters/node.js";
import { type MountConfig, memorySource, type SiteConfig } from "../src/index.js";
import { NAVIGATION } from "../src/testing/ask/ask.js";
import { askServer } from "../src/testing/index.js";
import { openSite } from "./counting-source.js";
import { startStandInCache } from "./fixtures/stand-in-cache.js";
import { makeTree, type Tree } from "./helpers.js";

const closing: (() => unknown)[] = [];
const trees: Tree[] = [];
afterEach(async () => {
  for (const close of closing.splice(0)) await close();
});
afterAll(() => Promise.all(trees.map((tree) => tree.remove())));

/** Serves configurations, as replicas of one site behind a shared cache; gives the cache's address. */
async function cached(...configs: SiteConfig[]): Promise<string> {
  const servers = await Promise.all(
    configs.map(async (config) => startServer(await openSite(config), { port: 0 })),
  );
  const cache = await startStandInCache(servers.map(({ url }) => url));
  closing.push(cache.close, ...servers.map((server) => () => server.close(0)));
  return cache.url;
}

// The platform's fetch writes Sec-Fetch-Mode by itself.
async function get(address: string, headers: Readonly<Record<string, string>> = {}) {
  const { origin, pathname } = new URL(address);
  const asker = askServer(origin);
  return asker.ask({ method: "GET", path: pathname, headers }).finally(() => asker.close());
}

const SCRIPT = { Accept: "*/*", "Sec-Fetch-Mode": "cors" };
const PROGRAM = { Accept: "application/json" };
const OLD_BROWSER = { Accept: "text/html,*/*;q=0.8" };
const RULES: MountConfig = {
  appShell: "/index.html",
  caching: [{ files: "**", policy: { maxAge: "1h" }, cdn: { maxAge: "1d" } }],
};

test.each<[string, MountConfig]>([
  ["a lifetime for all, and a longer one for networks", RULES],
  [
    "asked about each time, and a lifetime for networks",
    { ...RULES, caching: [{ files: "**", policy: "revalidate", cdn: { maxAge: "1d" } }] },
  ],
  [
    "not stored, and a lifetime for networks",
    { ...RULES, caching: [{ files: "**", policy: "no-store", cdn: "immutable" }] },
  ],
  ["a page for errors", { ...RULES, errorPages: { 404: "/404.html" } }],
  ["an archive of codings", { ...RULES, codings: { compress: true } }],
])(
  "behind a shared cache, each client gets at a deep link what is meant for it: %s",
  async (_rules, rules) => {
    const tree = memorySource({
      "index.html": `<title>Explorer</title>${"larkholm ".repeat(300)}`,
      "404.html": "none",
    });
    const clients = {
      navigation: NAVIGATION,
      script: SCRIPT,
      program: PROGRAM,
      "an old browser": OLD_BROWSER,
    };
    for (const order of [Object.entries(clients), Object.entries(clients).reverse()]) {
      const url = await cached({ mounts: [{ source: tree, ...rules }] });
      for (const _round of [1, 2]) {
        for (const [name, headers] of order) {
          const answer = await get(`${url}/records/42`, headers);
          const told = `${name}: ${answer.status} ${String(Buffer.from(answer.body)).includes("<title>Explorer</title>")} ${answer.headers["x-from"] !== "memory"} ${answer.headers["cdn-cache-control"]}`;
          const isPage = name === "navigation" || name === "an old browser";
          expect(told).toBe(`${name}: ${isPage ? "200 true" : "404 false"} true undefined`);
          expect(answer.headers.vary).toMatch(/\bAccept, Sec-Fetch-Mode\b/);
        }
      }
    }
  },
);

test("the page's own address has the lifetime that is said, and what can only be an error varies by no client", async () => {
  const url = await cached({
    mounts: [
      {
        source: memorySource({ "index.html": "app" }),
        ...RULES,
        appShell: { file: "/index.html", except: ["/api"] },
      },
    ],
  });
  const tell = async (path: string, headers: Record<string, string>) => {
    const { status, headers: fields } = await get(url + path, headers);
    return [status, fields["cache-control"], fields["cdn-cache-control"], fields.vary, fields["x-from"]];
  };
  expect(await tell("/", NAVIGATION)).toEqual([200, "max-age=3600", "max-age=86400", undefined, "server"]);
  expect(await tell("/", SCRIPT)).toEqual([200, "max-age=3600", "max-age=86400", undefined, "memory"]);
  expect(await tell("/lost.js", SCRIPT)).toEqual([404, "no-cache", undefined, "Accept", "server"]);
  expect(await tell("/api/birds", NAVIGATION)).toEqual([404, "no-cache", undefined, "Accept", "server"]);
});

test("replicas that were copied at different times: what was fetched from one is current with the other", async () => {
  const copies = await Promise.all(
    [1_700_000_000, 1_750_000_000].map(async (seconds, i) => {
      const tree = await makeTree({ "page.html": "a page".repeat(500), "other.html": "another" });
      utimesSync(join(tree.root, "page.html"), seconds, seconds + i / 3);
      trees.push(tree);
      return { mounts: [{ folder: tree.root }] };
    }),
  );
  const url = await cached(...copies);
  const first = await get(`${url}/page.html`);
  const validators = {
    "If-None-Match": first.headers.etag!,
    "If-Modified-Since": first.headers["last-modified"]!,
  };
  const revisits: string[] = [];
  for (let i = 0; i < 20; i++) {
    const { status, headers } = await get(`${url}/page.html`, validators);
    revisits.push(`${status} ${headers["x-from"]}`);
  }
  expect([...new Set(revisits)]).toEqual(["304 confirmed"]);
});
