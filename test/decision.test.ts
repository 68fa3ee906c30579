import { beforeAll, describe, expect, test } from "vitest";
import { type AreaConfig, describeReason, memorySource, type Site } from "../src/index.js";
import { openSite } from "./counting-source.js";
import { ask, openMemory } from "./helpers.js";

const NAVIGATION = { accept: "text/html,application/xhtml+xml,*/*;q=0.8", "sec-fetch-mode": "navigate" };
const OLD_NAVIGATION = { accept: "text/html,application/xhtml+xml,*/*;q=0.8" };
const SCRIPT = { accept: "*/*", "sec-fetch-mode": "no-cors", "sec-fetch-dest": "script" };

/** A row: what it proves, the request, the answer, and header fields or circumstances where it needs them. */
type Row = [
  sentence: string,
  request: string,
  answer: string,
  headers?: Record<string, string>,
  more?: object,
];

function table(title: string, open: () => Promise<Site>, rows: Row[]): void {
  describe(title, () => {
    let site: Site;
    beforeAll(async () => {
      site = await open();
    });
    test.each(rows)("%s: %s → %s", async (_sentence, request, answer, headers, more) => {
      expect((await ask(site, request, headers, more)).summary).toBe(answer);
    });
  });
}

const PAGES = {
  "index.html": "home",
  "about.html": "about",
  "both.html": "file",
  "both/index.html": "directory",
  "guide/index.html": "guide",
  "guide/a b.html": "blank",
  "guide/Óðinshani.html": "bird",
  "guide/a:b/index.html": "colon",
  "guide/100%/index.html": "percent",
  "empty/note.txt": "note",
  "notes/home.html": "home",
  ".env": "secret",
  ".git/config": "secret",
  ".well-known/security.txt": "contact",
  ".well-known/.hidden": "secret",
  "deep/.cache/a.txt": "secret",
};

const BOTH_FORMS = {
  ...PAGES,
  "a.html": "a",
  "a.htm": "other",
  "b.html.html": "b",
  "c.html": "c",
  "c/x.html": "x",
  "d.html": "d",
  d: "exact",
  "two/index.html": "i",
  "two/home.html": "h",
  "deep:er/a.html": "a",
};

table(
  "long addresses are redirected, where the shorter one leads to the same file",
  () =>
    openSite({
      mounts: [
        {
          source: memorySource(BOTH_FORMS),
          impliedExtensions: [".html", ".htm"],
          defaultDocuments: ["home.html", "index.html"],
          longAddresses: "redirect",
          areas: { "/c": { impliedExtensions: [] }, "/guide": { longAddresses: "answer" } },
        },
        { at: "/about", source: memorySource({ "index.html": "another mount" }) },
      ],
    }),
  [
    ["a default document's own name", "GET /index.html?a=b", "301 ./?a=b"],
    [
      "what no field may hold is escaped in its query",
      "GET /index.html?a=\u0000\u00e9\u00ff\u0100\r\n\ud800b c",
      "301 ./?a=%00%E9%FF%C4%80%0D%0A%EF%BF%BDb%20c",
    ],
    ["in a folder", "GET /both/index.html", "301 ./"],
    ["HEAD, too", "HEAD /index.html", "301 ./"],
    ["a default document that stands behind another keeps its name", "GET /two/index.html", "301 ./index"],
    ["the one before it", "GET /two/home.html", "301 ./"],
    ["a name with an implied extension", "GET /both.html?q", "301 ./both?q"],
    ["what was escaped is escaped again", "GET /deep:er/a.html", "301 ./a"],
    ["an extension that another goes before", "GET /a.htm", "200 a.htm"],
    ["the one before it", "GET /a.html", "301 ./a"],
    ["an extension twice", "GET /b.html.html", "200 b.html.html"],
    ["an exact file of the shorter name", "GET /d.html", "200 d.html"],
    ["a shorter address under other rules", "GET /c.html", "200 c.html"],
    ["a shorter address in another mount", "GET /about.html", "200 about.html"],
    ["an area that answers", "GET /guide/index.html", "200 guide/index.html"],
    ["the shorter address answers", "GET /both", "200 both.html"],
    ["a file without a shorter address", "GET /empty/note.txt", "200 empty/note.txt"],
    ["missing files", "GET /nope.html", "404 no-such-file"],
  ],
);

table("kind pages", () => openSite({ mounts: [{ source: memorySource(PAGES) }] }), [
  ["the root's default document", "GET /", "200 index.html"],
  ["HEAD answers like GET", "HEAD /", "200 index.html"],
  ["a query does not matter", "GET /?q=1", "200 index.html"],
  ["an exact file", "GET /about.html", "200 about.html"],
  ["an implied extension", "GET /about", "200 about.html"],
  ["the exact file of a default document", "GET /index.html", "200 index.html"],
  ["an implied extension before a directory", "GET /both", "200 both.html"],
  ["the directory keeps its own address", "GET /both/", "200 both/index.html"],
  ["a directory's address ends with a slash", "GET /guide", "301 ./guide/"],
  ["the redirect keeps the query", "GET /guide?a=b&c", "301 ./guide/?a=b&c"],
  ["HEAD is redirected too", "HEAD /guide", "301 ./guide/"],
  ["a colon cannot become a scheme", "GET /guide/a:b", "301 ./a:b/"],
  ["what was escaped is escaped again", "GET /guide/100%25", "301 ./100%25/"],
  ["a subfolder's default document", "GET /guide/", "200 guide/index.html"],
  ["a name with a blank", "GET /guide/a%20b", "200 guide/a b.html"],
  ["a name beyond ASCII", "GET /guide/%C3%93%C3%B0inshani.html", "200 guide/Óðinshani.html"],
  ["nothing there", "GET /nope", "404 no-such-file"],
  ["nothing there, as a directory", "GET /nope/", "404 no-such-file"],
  ["a file's address has no slash at its end", "GET /about.html/", "404 slash-after-file"],
  ["an implied extension needs no slash either", "GET /about/", "404 no-such-file"],
  ["below a file there is nothing", "GET /about.html/x", "404 no-such-file"],
  ["a directory without a default document", "GET /empty/", "403 no-default-document"],
  ["the same without its slash: no redirect to a refusal", "GET /empty", "403 no-default-document"],
  ["a default document of another name is not guessed", "GET /notes/", "403 no-default-document"],
  ["names match in case", "GET /About.html", "404 no-such-file"],
  ["two slashes in a row are no name", "GET /guide//index.html", "404 empty-segment"],
  ["two slashes in front do not lead off the site", "GET //guide", "404 empty-segment"],
  ["a dot-file is withheld", "GET /.env", "404 withheld"],
  ["a dot-folder is withheld with all in it", "GET /.git/config", "404 withheld"],
  ["a dot-folder's own address", "GET /.git", "404 withheld"],
  ["a dot-folder deep down", "GET /deep/.cache/a.txt", "404 withheld"],
  ["RFC 8615 well-known is served", "GET /.well-known/security.txt", "200 .well-known/security.txt"],
  ["a dot-file inside well-known is not", "GET /.well-known/.hidden", "404 withheld"],
  ["escaping a dot does not uncover it", "GET /%2eenv", "404 withheld"],
  ["encoded dots", "GET /%2e%2e/index.html", "400 dot-segment"],
  ["raw dots", "GET /guide/../index.html", "400 dot-segment"],
  ["an encoded slash", "GET /guide%2Findex.html", "400 encoded-slash"],
  ["a backslash", "GET /guide\\index.html", "400 backslash"],
  ["NUL", "GET /index.html%00.png", "400 control-character"],
  ["not UTF-8", "GET /%C3.html", "400 bad-escape"],
  ["absolute form", "GET http://x.test/about", "200 about.html"],
  ["not a path", "GET about", "400 not-a-path"],
  ["POST", "POST /about", "405 method-not-allowed"],
  ["PUT where nothing is", "PUT /nope", "405 method-not-allowed"],
  ["a method that nobody knows", "TWEET /", "405 method-not-allowed"],
  ["methods have a case", "get /", "405 method-not-allowed"],
  ["OPTIONS", "OPTIONS /about", "204 options"],
  ["OPTIONS of the server", "OPTIONS *", "204 options"],
  ["GET of the server is no path", "GET *", "400 not-a-path"],
  ["a navigation gets no shell, since there is none", "GET /sightings/42", "404 no-such-file", NAVIGATION],
  [
    "behind: a miss is passed on, where nothing else is said",
    "GET /nope",
    "pass no-such-file",
    {},
    { mayPass: true },
  ],
  ["behind: a file that is there is answered", "GET /about.html", "200 about.html", {}, { mayPass: true }],
  ["behind: another method is passed on", "POST /about", "pass method-passed-on", {}, { mayPass: true }],
  ["behind: OPTIONS too", "OPTIONS /about", "pass method-passed-on", {}, { mayPass: true }],
  ["behind: an address that no file has", "GET /api/a%2Fb", "pass encoded-slash", {}, { mayPass: true }],
]);

table(
  "an application with areas",
  () =>
    openSite({
      mounts: [
        {
          kind: "app",
          source: memorySource({
            "index.html": "shell",
            "main.js": "code",
            "assets/app-5f3a91bc.js": "code",
            "settings/note.txt": "note",
            "help/index.html": "help",
            "admin/index.html": "admin shell",
            "admin/deep/x.txt": "x",
            "records/home.html": "records",
            "records/unreviewed/notes.txt": "notes",
            "records/2026/index.html": "year",
          }),
          appShell: {
            file: "/index.html",
            except: ["/api", "/files/private"],
            routes: ["/Docs/**", "/people/*", "v[0-9].[0-9]"],
          },
          areas: {
            "/admin": { appShell: "/admin/index.html" },
            "/records": {
              appShell: false,
              defaultDocuments: ["home.html"],
              impliedExtensions: [".html", ".txt"],
            },
            "/records/unreviewed": { defaultDocuments: ["missing.html", "notes.txt"] },
          },
        },
      ],
    }),
  [
    ["the front page", "GET /", "200 index.html", NAVIGATION],
    ["a deep link", "GET /sightings/42", "200 index.html", NAVIGATION],
    ["a deep link with a slash", "GET /sightings/42/", "200 index.html", NAVIGATION],
    ["a deep link, HEAD", "HEAD /sightings/42", "200 index.html", NAVIGATION],
    [
      "a client without Fetch Metadata that prefers HTML",
      "GET /sightings/42",
      "200 index.html",
      OLD_NAVIGATION,
    ],
    ["a script's fetch is no navigation", "GET /sightings/42", "404 no-such-file", SCRIPT],
    [
      "the mode is believed before Accept",
      "GET /x",
      "404 no-such-file",
      { ...NAVIGATION, "sec-fetch-mode": "cors" },
    ],
    ["any type is no preference for HTML", "GET /sightings/42", "404 no-such-file", { accept: "*/*" }],
    ["no Accept at all", "GET /sightings/42", "404 no-such-file"],
    ["a missing script stays missing", "GET /assets/old-11111111.js", "404 no-such-file", SCRIPT],
    [
      "a missing script stays missing, even navigated to",
      "GET /assets/old.js",
      "404 no-such-file",
      NAVIGATION,
    ],
    ["a name with a dot asks for a file", "GET /users/jane.doe", "404 no-such-file", NAVIGATION],
    ["but not in a route that says so", "GET /people/jane.doe", "200 index.html", NAVIGATION],
    ["in that folder alone", "GET /people/old/jane.doe", "404 no-such-file", NAVIGATION],
    ["in all that lies below", "GET /docs/guide/v1.2", "200 index.html", NAVIGATION],
    ["a name, wherever it stands", "GET /a/b/v1.2", "200 index.html", NAVIGATION],
    ["a route that is no navigation", "GET /people/jane.doe", "404 no-such-file", SCRIPT],
    ["a route that is excepted", "GET /api/v1.2", "404 no-such-file", NAVIGATION],
    ["a dot in a folder's name does not", "GET /v1.2/users", "200 index.html", NAVIGATION],
    ["a file goes before the shell", "GET /main.js", "200 main.js", NAVIGATION],
    ["a default document goes before the shell", "GET /help/", "200 help/index.html", NAVIGATION],
    ["a directory with a document is redirected to", "GET /help", "301 ./help/", NAVIGATION],
    ["a directory without one is a deep link", "GET /settings", "200 index.html", NAVIGATION],
    ["the same with a slash", "GET /settings/", "200 index.html", NAVIGATION],
    ["a directory without one, not navigated to", "GET /settings/", "403 no-default-document", SCRIPT],
    ["no implied extension in an application", "GET /main", "404 no-such-file", SCRIPT],
    ["an exception", "GET /api/birds", "404 no-such-file", NAVIGATION],
    ["an exception's own path", "GET /api", "404 no-such-file", NAVIGATION],
    ["exceptions are whole segments", "GET /apiary", "200 index.html", NAVIGATION],
    ["an exception further down", "GET /files/private/x", "404 no-such-file", NAVIGATION],
    ["beside it", "GET /files/public", "200 index.html", NAVIGATION],
    [
      "a deep link that is longer than any file's name",
      `GET /search/${"x".repeat(300)}`,
      "200 index.html",
      NAVIGATION,
    ],
    ["a withheld name gets the shell like any other", "GET /.git", "200 index.html", NAVIGATION],
    ["an area's own shell", "GET /admin/users/7", "200 admin/index.html", NAVIGATION],
    ["an area inherits what it does not say", "GET /admin/api", "200 admin/index.html", NAVIGATION],
    ["an area turns the shell off", "GET /records/nope", "404 no-such-file", NAVIGATION],
    ["an area's default document", "GET /records/", "200 records/home.html"],
    ["an area's default document is not the mount's", "GET /records/2026/", "403 no-default-document"],
    ["an area's implied extension", "GET /records/home", "200 records/home.html"],
    ["a list is tried in order", "GET /records/unreviewed/", "200 records/unreviewed/notes.txt"],
    [
      "an inner area inherits from the outer one",
      "GET /records/unreviewed/notes",
      "200 records/unreviewed/notes.txt",
    ],
    ["areas are whole segments", "GET /recordsx", "200 index.html", NAVIGATION],
    [
      "behind: the shell goes before the application",
      "GET /x",
      "200 index.html",
      NAVIGATION,
      { mayPass: true },
    ],
  ],
);

table(
  "several mounts",
  () =>
    openSite({
      mounts: [
        { at: "/docs/api", source: memorySource({ "index.html": "api", "a.txt": "api a" }) },
        {
          at: "/",
          source: memorySource({ "index.html": "root", "docs/hidden.txt": "hidden", "docsx.txt": "x" }),
        },
        {
          at: "/docs/",
          source: memorySource({ "index.html": "docs", "api/a.txt": "shadowed", "b.txt": "b" }),
        },
        { at: "/Grüße an alle", source: memorySource({ "a.txt": "hello" }) },
        {
          at: "/app",
          kind: "app",
          whenMissing: "pass",
          source: memorySource({ "index.html": "shell", "assets/a.js": "a" }),
        },
        {
          at: "/open",
          whenMissing: "pass",
          impliedExtensions: [],
          source: memorySource({ "a.txt": "a", "sub/b.txt": "b" }),
        },
      ],
    }),
  [
    ["the root", "GET /", "200 index.html"],
    ["the longest prefix", "GET /docs/api/a.txt", "200 docs/api/a.txt"],
    ["the longer prefix, whatever the order", "GET /docs/b.txt", "200 docs/b.txt"],
    ["a mount hides what the outer one has there", "GET /docs/hidden.txt", "404 no-such-file"],
    ["prefixes are whole segments", "GET /docsx.txt", "200 docsx.txt"],
    ["a prefix without its slash", "GET /docs", "301 ./docs/"],
    ["a nested prefix without its slash", "GET /docs/api?x", "301 ./api/?x"],
    ["a prefix's default document", "GET /docs/", "200 docs/index.html"],
    ["prefixes have a case", "GET /Docs/b.txt", "404 no-such-file"],
    ["a prefix beyond ASCII", "GET /Gr%C3%BC%C3%9Fe%20an%20alle/a.txt", "200 Grüße an alle/a.txt"],
    ["an application under a prefix", "GET /app/birds/3", "200 app/index.html", NAVIGATION],
    ["its missing script stays missing", "GET /app/assets/b.js", "404 no-such-file", SCRIPT],
    [
      "its missing script is passed on where it can be",
      "GET /app/assets/b.js",
      "pass no-such-file",
      SCRIPT,
      { mayPass: true },
    ],
    ["a miss is passed on", "GET /open/nope", "pass no-such-file", {}, { mayPass: true }],
    ["nothing behind: a miss is answered", "GET /open/nope", "404 no-such-file"],
    ["a file is not passed on", "GET /open/a.txt", "200 open/a.txt", {}, { mayPass: true }],
    [
      "a directory that shows nothing is passed on",
      "GET /open/",
      "pass no-default-document",
      {},
      { mayPass: true },
    ],
    [
      "the same without its slash: the route is the application's",
      "GET /open/sub",
      "pass no-default-document",
      {},
      { mayPass: true },
    ],
    [
      "withheld looks like missing to the application too",
      "GET /open/.env",
      "pass withheld",
      {},
      { mayPass: true },
    ],
    ["POST goes to the application", "POST /open/a.txt", "pass method-passed-on", {}, { mayPass: true }],
  ],
);

table(
  "no mount at the root, and a prefix that the host took off",
  () =>
    openSite({ mounts: [{ at: "/docs", source: memorySource({ "a.txt": "a", "sub/index.html": "s" }) }] }),
  [
    ["outside every mount", "GET /other", "404 outside-every-mount"],
    ["outside every mount, passed on", "GET /other", "pass outside-every-mount", {}, { mayPass: true }],
    ["the root itself", "GET /", "404 outside-every-mount"],
    ["a stripped prefix", "GET /static/docs/a.txt", "200 docs/a.txt", {}, { strippedPrefix: "/static" }],
    [
      "a stripped prefix and a redirect",
      "GET /static/docs/sub?q",
      "301 ./sub/?q",
      {},
      { strippedPrefix: "/static" },
    ],
    [
      "a stripped prefix is whole segments",
      "GET /staticx/docs/a.txt",
      "404 outside-stripped-prefix",
      {},
      { strippedPrefix: "/static" },
    ],
    ["an escaped prefix", "GET /a%20b/docs/a.txt", "200 docs/a.txt", {}, { strippedPrefix: "/a%20b" }],
  ],
);

table(
  "withheld patterns",
  () =>
    openSite({
      withheld: ["*.key"],
      mounts: [
        {
          source: memorySource({
            "index.html": "home",
            "server.key": "k",
            "a.BAK": "b",
            "drafts/index.html": "d",
            "drafts/deep/a.txt": "d",
            "src/keys/a.txt": "k",
            "public/a.bak": "b",
            "public/b.tmp": "t",
            "public/index.html": "p",
          }),
          withheld: ["*.bak", "drafts/", "/src/keys/**"],
          appShell: "/index.html",
          areas: { "/public": { withheld: ["*.tmp"], appShell: false } },
        },
      ],
    }),
  [
    ["a pattern of the site", "GET /server.key", "404 withheld"],
    ["a pattern folds case", "GET /a.BAK", "404 withheld"],
    ["a folder, itself", "GET /drafts", "404 withheld"],
    ["a folder, its default document", "GET /drafts/", "404 withheld"],
    ["a folder, all below it", "GET /drafts/deep/a.txt", "404 withheld"],
    ["a pattern with a path", "GET /src/keys/a.txt", "404 withheld"],
    ["what is above it is not", "GET /src/", "403 no-default-document"],
    ["an area adds to what encloses it", "GET /public/b.tmp", "404 withheld"],
    ["an area does not uncover", "GET /public/a.bak", "404 withheld"],
    ["the area's pattern is the area's", "GET /public/", "200 public/index.html"],
    ["a withheld deep link is answered like a missing one", "GET /drafts", "200 index.html", NAVIGATION],
    ["as here", "GET /draughts", "200 index.html", NAVIGATION],
  ],
);

test.each<[string, AreaConfig, string]>([
  [
    "by default",
    {},
    "no such file; passed on to the application behind the site (whenMissing: pass, default)",
  ],
  [
    "where that is said",
    { whenMissing: "pass" },
    "no such file; passed on to the application behind the site (whenMissing: pass, mounts[0])",
  ],
  [
    "where the site answers itself",
    { whenMissing: "answer" },
    "no such file; answered here (whenMissing: answer, mounts[0])",
  ],
])("what became of a missing file, with something behind the site, %s", async (_where, rules, why) => {
  const site = await openMemory({ "a.txt": "a" }, rules);
  const request = { method: "GET", target: "/nope", headers: {}, mayPass: true };
  expect([describeReason((await site.respond(request)).reason), (await site.explain(request)).why]).toEqual([
    why,
    why,
  ]);
  expect((await site.explain({ ...request, mayPass: false })).why).toBe("no such file");
});

test("the prefixes under which a shell answers: of each application one", async () => {
  const tree = { "i.html": "", "b.html": "", "a/x": "", "b/x": "", "b/c/x": "", "d e/x": "" };
  const site = await openSite({
    mounts: [
      {
        at: "/x",
        source: memorySource(tree),
        appShell: "/i.html",
        areas: {
          "/a": {},
          "/b": { appShell: "/b.html" },
          "/b/c": { appShell: "/b.html" },
          "/d e": { appShell: false },
        },
      },
      {
        at: "/y",
        source: memorySource(tree),
        areas: { "/b": { appShell: "/b.html" }, "/d e": { appShell: "/b.html" } },
      },
      { source: memorySource(tree), kind: "app" },
    ],
  });
  expect(site.mounts.map(({ appShells }) => appShells.toSorted())).toEqual([
    ["/x/", "/x/b/"],
    ["/y/b/", "/y/d%20e/"],
    ["/"],
  ]);
});
