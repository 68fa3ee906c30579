import assert from "node:assert/strict";
import {
  chmodSync,
  existsSync,
  linkSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readlinkSync,
  renameSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from "node:fs";
import { Agent, createServer, request } from "node:http";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { setImmediate as nextTurn } from "node:timers/promises";
import fc from "fast-check";

const FILES = [
  "index.html",
  "home.html",
  "about.html",
  "about",
  "404.html",
  "data.json",
  "data.json.br",
  "data.json.gz",
  "style.css",
  "style.css.br",
  "guide/index.html",
  "guide/waders.html",
  "guide/home.html",
  "guide/deep/a.txt",
  "app/index.html",
  "app/main.js",
  "secret/key.txt",
  "spare/index.html",
  "spare/waders.html",
  "release.txt",
];
// What a build leaves: each has the same bytes whenever it is there, so that only the others tell what its name is.
const BUILT = [
  "assets/index-DVXNDFMC.js",
  "assets/part-Dct7elz_.js",
  "assets/part-BGHzbpMo.css",
  "assets/hide-DlQxmPfI.png",
  "assets/photo-overcast.png",
  "assets/logo.svg",
  ".epistyle/fingerprints.txt",
];
const LISTED = "assets/photo-overcast.png\n";
const FOLDERS = ["guide", "guide/deep", "app", "spare", "secret"];
const PATHS = [
  "/",
  "/index.html",
  "/home.html",
  "/about",
  "/about.html",
  "/data.json",
  "/style.css",
  "/guide",
  "/guide/",
  "/guide/waders",
  "/guide/waders.html",
  "/guide/deep/a.txt",
  "/guide/deep/",
  "/app/",
  "/app/deep/link",
  "/app/main.js",
  "/secret/key.txt",
  "/spare/",
  "/spare/waders",
  "/link/waders",
  "/link/",
  "/none",
  "/release.txt",
  "/current/release.txt",
  "/current/",
  "/guide?a=b",
  ...BUILT.map((path) => `/${path}`),
  ...BUILT.map((path) => `/${path}`),
];
const FIELDS = [
  {},
  {},
  { "accept-encoding": "br, gzip" },
  { "accept-encoding": "gzip" },
  { accept: "text/html", "sec-fetch-mode": "navigate" },
  { accept: "application/json" },
  { "cache-control": "no-transform", "accept-encoding": "br" },
  { range: "bytes=0-3" },
  { "if-modified-since": "Thu, 01 Jan 2099 00:00:00 GMT" },
];

/**
 * A site on a tree that changes between its requests, held against a fresh site: each answer must be the same, byte for byte.
 * `product` is what is tested. The clock is set forward while it runs, so that what was just written may be kept at once.
 */
export async function openChanges({ openSite, nodeHandler, readPlan }) {
  const folder = mkdtempSync(join(tmpdir(), "epistyle-changes-"));
  const at = (path) => join(folder, "site", path);
  let version = 0;
  const put = (path) => {
    mkdirSync(dirname(at(path)), { recursive: true });
    writeFileSync(at(path), `${path} ${++version} `.repeat(1 + (version % 90)));
  };
  for (const path of FILES) put(path);
  mkdirSync(join(folder, "outside"));
  writeFileSync(join(folder, "outside/waders.html"), "outside");
  symlinkSync("guide", at("link"));
  symlinkSync("site", join(folder, "current"));

  const rules = {
    defaultDocuments: ["index.html", "home.html"],
    impliedExtensions: [".html"],
    withheld: ["secret"],
    codings: { prebuilt: ["br", "gzip"], compress: true },
    errorPages: { 404: "/404.html", 403: "/404.html" },
    caching: [{ files: "fingerprinted", policy: "immutable" }],
    areas: { "/app": { appShell: "/app/index.html" }, "/guide": { listing: true, defaultDocuments: [] } },
  };
  const config = {
    mounts: [
      { folder: join(folder, "site"), ...rules },
      { at: "/current", folder: join(folder, "current"), ...rules },
    ],
  };
  const realNow = Date.now;
  let aheadMs = 10_000;
  Date.now = () => realNow() + aheadMs;
  const site = await openSite(config);
  const server = createServer(nodeHandler(site));
  await new Promise((done) => server.listen(0, "127.0.0.1", done));
  const agent = new Agent({ keepAlive: true, maxSockets: 1 });
  const tags = new Map();

  function ask(method, path, headers) {
    return new Promise((resolve, reject) => {
      request(
        { port: server.address().port, host: "127.0.0.1", agent, method, path, headers },
        async (response) => {
          const chunks = [];
          for await (const chunk of response) chunks.push(chunk);
          const { date, connection, "keep-alive": _, ...fields } = response.headers;
          resolve({ status: response.statusCode, fields, body: Buffer.concat(chunks).toString("latin1") });
        },
      )
        .on("error", reject)
        .end();
    });
  }

  async function askFresh(method, target, headers) {
    const fresh = await openSite(config);
    const answer = await fresh.respond({ method, target, headers, mayPass: false });
    const fields = Object.fromEntries(
      [...answer.fields].map(({ name, value }) => [name.toLowerCase(), value]),
    );
    const body = method === "HEAD" ? "" : Buffer.from(await readPlan(answer)).toString("latin1");
    if (answer.body.kind === "file") answer.body.file.close();
    return { status: answer.status, fields, body };
  }

  return {
    /** A folder is moved away with a link in its place, and put back, and what is in it asked for all the while. */
    async moveAndPutBack(a, b) {
      const name = FOLDERS[a % FOLDERS.length];
      const path = 1 + PATHS.findIndex((one) => one.startsWith(`/${name}/`)) + (b % 3);
      for (const [how, choice] of [
        ["folder to link", b],
        ["folder back", 1],
        ["touch", b],
      ]) {
        for (let i = 0; i < 3; i++) await this.ask(path, 0);
        this.change(how, a, choice);
      }
    },

    /** One change of the tree; `a` and `b` choose what is changed. Gives what it was. */
    change(how, a, b) {
      // What is known of names is proved ten times a second.
      aheadMs += 200;
      const file = at(FILES[a % FILES.length]);
      const other = at(FILES[b % FILES.length]);
      const directory = at(FOLDERS[a % FOLDERS.length]);
      const isThere = (path) => lstatSync(path, { throwIfNoEntry: false }) !== undefined;
      try {
        switch (how) {
          case "write":
            put(FILES[a % FILES.length]);
            break;
          case "remove":
            rmSync(file);
            break;
          case "rename":
            renameSync(file, other);
            break;
          case "exchange": {
            renameSync(file, `${file}.x`);
            renameSync(other, file);
            renameSync(`${file}.x`, other);
            break;
          }
          case "link": {
            rmSync(other);
            symlinkSync(file, other);
            break;
          }
          case "hard link": {
            rmSync(other);
            linkSync(file, other);
            break;
          }
          case "forbid":
            chmodSync(file, lstatSync(file).mode & 0o400 ? 0o000 : 0o644);
            break;
          case "touch":
            // No whole second: whether a tool set a time is told by the files beside it, once for as long as the file is the same.
            utimesSync(file, 1_790_000_000.5 + b, 1_790_000_000.5 + b);
            break;
          case "folder to link": {
            // It is moved away, with a link in its place: out of the site, inside it, or to where all is withheld.
            const to = [join(folder, "outside"), at(""), at("secret")][b % 3];
            const away = join(to, `moved-${version++}`);
            renameSync(directory, away);
            symlinkSync(away, directory);
            break;
          }
          case "build": {
            const path = BUILT[a % BUILT.length];
            if (isThere(at(path))) rmSync(at(path));
            else {
              mkdirSync(dirname(at(path)), { recursive: true });
              writeFileSync(at(path), path.endsWith(".txt") ? LISTED : "built");
            }
            break;
          }
          case "folder back": {
            const isLink = (path) => isThere(path) && lstatSync(path).isSymbolicLink();
            const moved = FOLDERS.map(at).find(isLink);
            // The very files come back.
            if (moved !== undefined && b % 3 > 0 && existsSync(readlinkSync(moved))) {
              const away = readlinkSync(moved);
              rmSync(moved);
              renameSync(away, moved);
              break;
            }
            if (isThere(directory) && !isLink(directory) && lstatSync(directory).isDirectory())
              return "nothing";
            rmSync(directory, { force: true });
            for (const path of FILES) if (at(path).startsWith(`${directory}/`)) put(path);
            break;
          }
          case "folder to file":
            rmSync(directory, { recursive: true });
            writeFileSync(directory, "a file");
            break;
          case "release": {
            // The link that the second mount is reached by leads elsewhere, and back.
            const to = b % 2 === 0 ? "outside" : "site";
            rmSync(join(folder, "current"));
            symlinkSync(to, join(folder, "current"));
            break;
          }
        }
        return how;
      } catch {
        // What cannot be done to the tree as it is now is left out.
        return existsSync(file) ? "nothing" : how;
      }
    },

    /** Asks both for the same; throws when they differ. */
    async ask(a, b) {
      const path = PATHS[a % PATHS.length];
      const method = b % 7 === 6 ? "HEAD" : "GET";
      const tag = tags.get(path);
      const headers = b % 5 === 4 && tag !== undefined ? { "if-none-match": tag } : FIELDS[b % FIELDS.length];
      // What is found out is good for one turn of the event loop.
      await nextTurn();
      const got = await ask(method, path, headers);
      const wanted = await askFresh(method, path, headers);
      assert.deepEqual(got, wanted, `${method} ${path} ${JSON.stringify(headers)}`);
      if (got.fields.etag !== undefined) tags.set(path, got.fields.etag);
      return String(got.status);
    },

    /** Answers that were kept so far, to know that they were. */
    kept: () => site.memory.metrics().find(({ name }) => name.startsWith("answers kept")).entries,

    async close() {
      Date.now = realNow;
      agent.destroy();
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

const HOWS = [
  "write",
  "write",
  "remove",
  "rename",
  "exchange",
  "link",
  "hard link",
  "forbid",
  "touch",
  "build",
  "build",
  "build",
  "folder to link",
  "folder back",
  "folder back",
  "folder back",
  "folder back",
  "folder to file",
  "release",
  "move and put back",
];

/** A change, and how often is asked after it. */
export const step = fc.record({
  how: fc.constantFrom(...HOWS),
  asks: fc.integer({ min: 1, max: 6 }),
  a: fc.nat(9999),
  b: fc.nat(9999),
});

export const changes = {
  name: "changes",
  share: 1,
  async open() {
    const product = await Promise.all(
      ["index", "adapters/node", "adapters/in-process"].map((name) => import(`../.cache/build/${name}.js`)),
    );
    const all = await openChanges(Object.assign({}, ...product));
    return {
      arbitrary: step,
      async check({ how, asks, a, b }) {
        if (how === "move and put back") await all.moveAndPutBack(a, b);
        else all.change(how, a, b);
        // The same is asked more than once, so that it is kept.
        for (let i = 0; i < asks; i++) await all.ask(a + (i >> 1), b + (i >> 2));
        return `${asks} asked`;
      },
      close: () => all.close(),
    };
  },
};
