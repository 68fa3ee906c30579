import type { IncomingHttpHeaders } from "node:http";
import { afterAll, expect, test } from "vitest";
import { type PackName, runPacks } from "../../src/testing/index.js";
import { failures, makeHosts } from "./stand-in-host.js";

const { host, stop } = makeHosts();
afterAll(stop);

interface Answer {
  readonly status?: number;
  readonly fields?: Record<string, string>;
  readonly body?: string | Uint8Array;
}
/** What one address answers with instead: fields, or an answer to what was asked. */
type Change = Record<string, string> | ((asked: IncomingHttpHeaders, path: string, method: string) => Answer);

const FRONT =
  '<!doctype html><html lang="en"><title>Larkholm</title><link rel="stylesheet" href="/a.css"><script src="/app-5f3a91bc.js"></script><img src="/bird.png"><a href="/guide.html">g</a><a href="/data.json">d</a><a href="/notes.txt">n</a><a href="/sub/">s</a><a href="/records/a.csv">r</a></html>';
const PNG = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
const FILES: Record<string, readonly [type: string, body: string | Uint8Array]> = {
  "/": ["text/html; charset=utf-8", FRONT],
  "/guide.html": [
    "text/html; charset=utf-8",
    '<!doctype html><html lang="en"><title>Guide</title><script src="/app-5f3a91bc.js"></script><img src="/bird.png"></html>',
  ],
  "/sub/": [
    "text/html; charset=utf-8",
    '<!doctype html><html lang="en"><title>Sub</title><a href="./">s</a></html>',
  ],
  "/same": ["text/html; charset=utf-8", ""],
  "/a.css": ["text/css; charset=utf-8", '@font-face { font-family: a; src: url("/call.woff2") }'],
  "/app-5f3a91bc.js": ["text/javascript; charset=utf-8", "run()"],
  "/data.json": ["application/json", "{}"],
  "/notes.txt": ["text/plain; charset=utf-8", "notes"],
  "/records/a.csv": ["text/csv; charset=utf-8", "a,b"],
  "/bird.png": ["image/png", PNG],
  "/call.woff2": ["font/woff2", "wOF2"],
};

const REFUSED: Record<string, Answer> = {
  OPTIONS: { status: 204, fields: { Allow: "GET, HEAD, OPTIONS" }, body: "" },
  GET: {},
  HEAD: {},
};

function answerRightly(url: string, method: string): Answer {
  const path = url.replace(/\?.*/s, "");
  const [type, body] = FILES[path === "/same" ? "/guide.html" : path] ?? [
    "text/plain; charset=utf-8",
    "none",
  ];
  const fields = {
    "Content-Type": type,
    "Cache-Control": path.includes("-5f3a91bc") ? "max-age=31536000" : "no-cache",
    "X-Content-Type-Options": "nosniff",
  };
  const refused = REFUSED[method] ?? { status: 405, fields: { Allow: "GET, HEAD, OPTIONS" }, body: "" };
  if (refused.status !== undefined) return { ...refused, fields: { ...fields, ...refused.fields } };
  if (path === "/sub")
    return { status: 301, fields: { ...fields, Location: `/sub/${url.slice(4)}` }, body: "" };
  return { status: path in FILES ? 200 : 404, fields, body };
}

/** A right site, of which one address ("none": whatever is not there, "all": each) answers otherwise. */
const serve = (changed: string, change: Change): Promise<string> =>
  host(({ url = "/", headers, method = "GET" }, response) => {
    const path = url.replace(/\?.*/s, "");
    const right = answerRightly(url, method);
    const isChanged = changed === "all" || changed === path || (changed === "none" && right.status === 404);
    const other: Answer = !isChanged
      ? {}
      : typeof change === "function"
        ? change(headers, path, method)
        : { fields: change };
    const fields = Object.entries({ ...right.fields, ...other.fields }).filter(([, value]) => value !== "");
    response
      .writeHead(other.status ?? right.status!, Object.fromEntries(fields))
      .end(other.body ?? right.body);
  });

const control = (value: string, more: Record<string, string> = {}) => ({ "Cache-Control": value, ...more });
const PAST = "Thu, 01 Jan 1970 00:00:00 GMT";
const LATER = "Fri, 01 Jan 2100 00:00:00 GMT";
const KEPT = "/app-5f3a91bc.js";
const YEAR = "max-age=31536000";
const [PAGE, DATA, STYLE] = ["/guide.html", "/data.json", "/a.css"];
const STRANGER = "https://other-site.invalid";
const origin = (value: string, more: Record<string, string> = {}) => ({
  "Access-Control-Allow-Origin": value,
  ...more,
});
/** Says to the origin that asks that it may read. */
const echo =
  (more: Record<string, string>): Change =>
  ({ origin: from }) =>
    from === undefined ? {} : { fields: origin(from, more) };
const open =
  (closed: RegExp): Change =>
  (_, path) =>
    closed.test(path) ? {} : { fields: origin("*") };
/** Answers one method otherwise. */
const on =
  (name: string, answer: Answer): Change =>
  (_, __, method) =>
    method === name ? answer : {};
const to =
  (Location: string, status = 302): Change =>
  () => ({ status, fields: { Location } });
const PAGE_TYPE = { "Content-Type": "text/html; charset=utf-8" };
const page =
  (body: string, fields = {}): Change =>
  () => ({
    status: 200,
    fields: { ...PAGE_TYPE, ...fields },
    body: `<!doctype html><title>a</title>${body}`,
  });
const MAP = '{"version":3,"sourcesContent":["secret"]}';
const inline =
  (map: string): Change =>
  () => ({
    body: `run()\n//# sourceMappingURL=data:application/json;charset=utf-8;base64,${Buffer.from(map).toString("base64")}`,
  });
/** The same page with the slash of its folder, and without. */
const both =
  (body: string): Change =>
  (_, path) =>
    /^\/sub\/?$/.test(path)
      ? {
          status: 200,
          fields: { ...PAGE_TYPE, Location: "" },
          body: `<!doctype html><title>Sub</title>${body}`,
        }
      : {};
/** An application under /sub/, for navigations alone. */
const app =
  (Vary: string, othersVary = Vary): Change =>
  ({ "sec-fetch-mode": mode }, path) =>
    path.startsWith("/sub/") && mode === "navigate"
      ? { status: 200, fields: { ...PAGE_TYPE, Vary }, body: "<!doctype html><title>App</title>" }
      : { fields: { Vary: othersVary } };
const policy = (value: string) => ({ "Content-Security-Policy": value });

test.each<[PackName, string, Change, RegExp | undefined]>([
  ["caching", KEPT, control("max-age=2592000"), undefined],
  ["caching", KEPT, control("max-age=2591999"), /it has a long lifetime/],
  ["caching", KEPT, control("no-cache"), /it has a long lifetime/],
  ["caching", DATA, control("max-age=86400"), undefined],
  ["caching", DATA, control("max-age=86401"), /no fingerprint in its name: it has no long lifetime/],
  ["caching", PAGE, control("max-age=3600"), undefined],
  ["caching", PAGE, control("max-age=3601"), /is a document: it has no long lifetime/],
  ["caching", PAGE, control(""), /says how long a copy is fresh/],
  ["caching", DATA, control("", { Expires: PAST }), undefined],
  ["caching", DATA, control("no-store, max-age=60"), /\(no-store and a lifetime\)/],
  ["caching", DATA, control("no-store, max-age=0"), undefined],
  ["caching", DATA, control("private, public"), /\(private and public\)/],
  ["caching", DATA, control("private, max-age=60"), undefined],
  ["caching", DATA, control("public, max-age=60"), undefined],
  ["caching", DATA, control("no-cache, immutable"), /\(no-cache and immutable\)/],
  ["caching", DATA, control('no-cache="set-cookie", max-age=60, immutable'), undefined],
  ["caching", DATA, control("max-age=60, s-maxage=soon"), /\(s-maxage needs a number of seconds\)/],
  ["caching", DATA, control("max-age=60, stale-if-error"), /\(stale-if-error needs a number of seconds\)/],
  ["caching", DATA, control("max-age=60; public"), /\(unreadable from "max-age=60; public" on\)/],
  ["caching", DATA, control("max-age=60", { Pragma: "No-Cache" }), /Pragma: No-Cache beside/],
  ["caching", DATA, control("max-age=0", { Pragma: "no-cache" }), undefined],
  ["caching", DATA, control("max-age=60", { Pragma: "other" }), undefined],
  ["caching", DATA, control("max-age=60", { Expires: PAST }), /Expires: .*, which is past, beside/],
  ["caching", DATA, control("max-age=60", { Expires: "soon" }), /Expires: soon, which is no date, beside/],
  ["caching", DATA, control("max-age=60", { Expires: LATER }), undefined],
  ["caching", DATA, control("max-age=0", { Expires: PAST }), undefined],
  ["caching", DATA, control("max-age=60", { Date: LATER, Expires: LATER }), /which is past/],
  [
    "caching",
    DATA,
    control("max-age=60", { Date: "Thu, 31 Dec 2099 23:59:59 GMT", Expires: LATER }),
    undefined,
  ],
  ["caching", DATA, control("max-age=60", { Age: "3660" }), undefined],
  [
    "caching",
    DATA,
    control("max-age=60", { Age: "3661" }),
    /Age 3661 seconds, of a copy that is fresh for 1 minute/,
  ],
  ["caching", DATA, control("max-age=60, s-maxage=7200", { Age: "7300" }), undefined],
  ["caching", DATA, control("max-age=60, stale-while-revalidate=7200", { Age: "7300" }), undefined],
  ["caching", DATA, control("max-age=60", { "CDN-Cache-Control": "max-age=7200", Age: "7300" }), undefined],
  [
    "caching",
    DATA,
    control("max-age=60", {
      "CDN-Cache-Control": "max-age=60",
      "Surrogate-Control": "max-age=7200",
      Age: "7300",
    }),
    undefined,
  ],
  [
    "caching",
    DATA,
    control("max-age=60", {
      "CDN-Cache-Control": "max-age=7200",
      "Surrogate-Control": "max-age=60",
      Age: "7300",
    }),
    undefined,
  ],
  [
    "caching",
    DATA,
    control("max-age=60", { "CDN-Cache-Control": "no-store, max-age=7200", Age: "7300" }),
    /Age 7300 seconds/,
  ],
  ["caching", DATA, control("no-cache", { Age: "3601" }), /Age 3601 seconds/],
  ["caching", DATA, control("max-age=60", { Age: "old" }), undefined],
  ["caching", PAGE, control("max-age=60, stale-while-revalidate=604800"), undefined],
  ["caching", PAGE, control("max-age=60, stale-while-revalidate=604801"), /is not shown stale for long/],
  ["caching", DATA, control("max-age=60, stale-while-revalidate=604801"), undefined],
  ["caching", KEPT, control(YEAR, { "Set-Cookie": "a=1" }), /is the same for everybody: Set-Cookie a=1/],
  ["caching", DATA, { "Set-Cookie": "a=1" }, /is the same for everybody: Set-Cookie a=1/],
  ["caching", PAGE, { "Set-Cookie": "a=1" }, undefined],
  ["caching", KEPT, control(YEAR, { Vary: "Accept, Cookie" }), /Vary Accept, Cookie/],
  ["caching", KEPT, control(YEAR, { Vary: "user-agent ,Accept" }), /Vary user-agent/],
  ["caching", KEPT, control(YEAR, { Vary: "*" }), /Vary \*/],
  ["caching", KEPT, control(YEAR, { Vary: "X-Cookie, User-Agent-Hint" }), undefined],
  ["caching", DATA, { Vary: "Cookie" }, undefined],
  ["caching", "/sub", control("max-age=2592000"), undefined],
  ["caching", "/sub", control("max-age=2592001"), /a redirect that is fresh for/],
  ["caching", "/sub", () => ({ status: 200, fields: { Location: "", "Cache-Control": YEAR } }), undefined],
  ["caching", "none", control("max-age=3600"), undefined],
  ["caching", "none", control("max-age=3601"), /a missing address has no long lifetime/],
  ["delivery", PAGE, { "X-Content-Type-Options": "NoSniff" }, undefined],
  [
    "delivery",
    PAGE,
    { "X-Content-Type-Options": "nosniff, nosniff" },
    /X-Content-Type-Options nosniff, nosniff/,
  ],
  ["delivery", PAGE, { "Content-Disposition": "ATTACHMENT" }, /Content-Disposition ATTACHMENT/],
  ["delivery", KEPT, { "Content-Disposition": "attachment" }, /Content-Disposition attachment/],
  ["delivery", PAGE, { "Content-Disposition": 'inline; filename="attachment"' }, undefined],
  ["delivery", DATA, { "Content-Disposition": "attachment" }, undefined],
  ["delivery", PAGE, { "X-Frame-Options": "SameOrigin" }, undefined],
  ["delivery", PAGE, { "X-Frame-Options": "ALLOW" }, /X-Frame-Options ALLOW/],
  ["delivery", PAGE, { Refresh: "9" }, /Refresh 9/],
  ["delivery", PAGE, { "Clear-Site-Data": '"cache"' }, /Clear-Site-Data "cache"/],
  ["delivery", PAGE, { "Content-Language": "en, nb-NO,  i-default" }, undefined],
  ["delivery", PAGE, { "Content-Language": "q" }, /Content-Language q/],
  ["delivery", PAGE, { "Content-Language": "en, english" }, /Content-Language en, english/],
  ["delivery", PAGE, { "Content-Language": "en_US" }, /Content-Language en_US/],
  [
    "delivery",
    PAGE,
    { "Strict-Transport-Security": 'includeSubDomains; max-age = "60" ; preload' },
    undefined,
  ],
  ["delivery", PAGE, { "Strict-Transport-Security": "max-age=60" }, undefined],
  ["delivery", PAGE, { "Strict-Transport-Security": "max-age=1y" }, /Strict-Transport-Security max-age=1y/],
  ["delivery", PAGE, { "Strict-Transport-Security": "x-max-age=1" }, /Strict-Transport-Security x-max-age=1/],
  ["delivery", PAGE, policy("frame-ancestors 'none'"), undefined],
  ["delivery", PAGE, policy("default-src 'none'"), /which blocks \/app-5f3a91bc\.js/],
  ["delivery", PAGE, policy("default-src 'none'; script-src 'self'; img-src 'self'"), undefined],
  ["delivery", PAGE, policy("default-src 'none'; script-src 'self'"), /which blocks \/bird\.png/],
  ["delivery", "/", policy("default-src 'self'; style-src 'none'"), /which blocks \/a\.css/],
  ["delivery", PAGE, policy("default-src 'self'; style-src 'none'"), undefined],
  ["delivery", PAGE, policy("script-src 'none' https:"), undefined],
  ["delivery", PAGE, policy("Default-Src 'self',, ; img-src *"), undefined],
  ["delivery", PAGE, policy("default-src: 'self'"), /a directive that cannot be read: "default-src:"/],
  ["delivery", PAGE, policy("9default-src 'self'"), /a directive that cannot be read: "9default-src"/],
  ["delivery", KEPT, policy("default-src 'none'"), undefined],
  ["delivery", DATA, policy("default-src: 'self'"), /a directive that cannot be read/],
  ["delivery", STYLE, origin("https://a.invalid https://b.invalid"), /several origins/],
  [
    "delivery",
    STYLE,
    origin("*", { "Access-Control-Allow-Credentials": "true" }),
    /Access-Control-Allow-Credentials true/,
  ],
  ["delivery", STYLE, origin("*", { "Access-Control-Allow-Credentials": "false" }), undefined],
  ["delivery", STYLE, origin("https://a.invalid", { "Access-Control-Allow-Credentials": "true" }), undefined],
  [
    "delivery",
    STYLE,
    ({ origin: from }) => ({ fields: from === STRANGER ? origin(STRANGER, { Vary: "Accept, Origin" }) : {} }),
    undefined,
  ],
  [
    "delivery",
    STYLE,
    ({ origin: from }) => ({ fields: from === STRANGER ? origin(STRANGER, { Vary: "*" }) : {} }),
    undefined,
  ],
  [
    "delivery",
    STYLE,
    ({ origin: from }) => ({ fields: from === STRANGER ? origin(STRANGER, { Vary: "X-Origin" }) : {} }),
    /Vary X-Origin/,
  ],
  [
    "delivery",
    STYLE,
    echo({ Vary: "Origin", "Access-Control-Allow-Credentials": "true" }),
    /any origin, allowed with credentials/,
  ],
  ["delivery", STYLE, echo({ Vary: "Origin" }), /null: any page in a sandboxed frame is allowed/],
  ["delivery", "all", open(/woff2$/), /\/call\.woff2, a font, .*Access-Control-Allow-Origin nothing/],
  ["delivery", "all", open(/none/), undefined],
  ["delivery", "all", open(/woff2$|json$|txt$|png$|css$/), undefined],
  ["delivery", PAGE, { "Content-Location": "/same" }, undefined],
  ["delivery", PAGE, { "Content-Location": "/guide.html" }, undefined],
  ["delivery", PAGE, { "Content-Location": "http://[" }, undefined],
  ["delivery", PAGE, { "Content-Location": "https://elsewhere.invalid/guide.html" }, undefined],
  ["delivery", PAGE, { "Content-Location": "sub/" }, /its Content-Location \/sub\/|another content/],
  ["delivery", PAGE, { "Content-Location": "/nowhere" }, /\/nowhere, which answers with 404/],
  ["types", KEPT, { "Content-Type": "application/x-javascript" }, undefined],
  ["types", KEPT, { "Content-Type": "text/plain" }, /has the type of its name: media type text\/plain/],
  ["types", KEPT, { "Content-Type": "" }, /has the type of its name: media type nothing/],
  [
    "types",
    "/bird.png",
    { "Content-Type": "image/jpeg" },
    /has the type of its content: media type image\/jpeg/,
  ],
  [
    "types",
    "/bird.png",
    { "Content-Type": "text/plain" },
    /has the type of its content: media type text\/plain/,
  ],
  ["types", "/notes.txt", () => ({ body: "<!doctype html><p>a" }), undefined],
  ["types", "/notes.txt", () => ({ body: PNG }), /has the type of its content: media type text\/plain/],
  ["types", "/data.json", { "Content-Type": "application/json; charset=x" }, undefined],
  ["types", "none", { "Content-Type": "" }, /a missing address has a type too: Content-Type nothing/],
  ["types", "none", () => ({ fields: { "Content-Type": "" }, body: "" }), undefined],
  ["missing", "none", () => ({ status: 410 }), undefined],
  ["missing", "none", () => ({ status: 200 }), /status 200, as if it had been found/],
  ["missing", "none", () => ({ status: 400 }), /status 400/],
  ["missing", "none", () => ({ status: 302, fields: { Location: "/" } }), /status 302, a redirect to \//],
  [
    "missing",
    "none",
    () => ({ status: 302, fields: { Location: "/guide.html" } }),
    /status 200, as if it had been found/,
  ],
  ["missing", "none", () => ({ status: 302 }), /status 302, a redirect to nowhere/],
  ["missing", "none", () => ({ body: "" }), /has a message for people: body an empty body/],
  [
    "missing",
    "none",
    () => ({ body: "<html><p>none" }),
    /has the type of its page: Content-Type text\/plain/,
  ],
  [
    "missing",
    "none",
    () => ({ fields: { "Content-Type": "application/xhtml+xml" }, body: "<html><p>none" }),
    undefined,
  ],
  [
    "missing",
    "none",
    () => ({ fields: { "Content-Type": "text/html" }, body: '<img src="a.png">' }),
    /"a\.png", which is relative to each missing address/,
  ],
  ["missing", "none", () => ({ body: '<img src="a.png">' }), undefined],
  [
    "missing",
    "none",
    ({ "if-none-match": held }) => ({ fields: { ETag: '"e"' }, status: held === '"e"' ? 304 : 404 }),
    /status 304 for the error's own tag "e"/,
  ],
  [
    "missing",
    "none",
    ({ "if-none-match": held }) => ({ status: held === "*" ? 304 : 404 }),
    /asked again with a validator: status 304$/,
  ],
  [
    "missing",
    "none",
    ({ accept }) =>
      accept === "application/json"
        ? { status: 200, fields: { "Content-Type": "text/html" }, body: "<p>a" }
        : {},
    /an API address that does not exist: answer 200 with a page of HTML/,
  ],
  [
    "missing",
    "none",
    ({ accept }) =>
      accept === "application/json"
        ? { status: 200, fields: { "Content-Type": "application/json" }, body: "{}" }
        : {},
    undefined,
  ],
  ["app-shell", "none", app("Accept, Sec-Fetch-Mode"), undefined],
  ["app-shell", "none", app("Accept-Encoding,sec-fetch-dest"), undefined],
  ["app-shell", "none", app("*"), undefined],
  ["app-shell", "none", app("Accept-Encoding"), /Vary Accept-Encoding, on the page/],
  ["app-shell", "none", app("X-Accept, Sec-Fetch-Site"), /Vary X-Accept, Sec-Fetch-Site, on the page/],
  ["app-shell", "none", app(""), /Vary nothing, on the page/],
  ["app-shell", "none", app("Accept", ""), /Vary nothing, on the other answer/],
  ["links", PAGE, () => ({ status: 401 }), undefined],
  ["links", PAGE, () => ({ status: 403 }), /answer 403/],
  ["links", PAGE, to(""), /a redirect without a Location/],
  ["links", PAGE, to("http://["), /an address that cannot be read: http:\/\/\[/],
  ["links", PAGE, to("//other.invalid/"), /a redirect off the site, by two slashes/],
  ["links", PAGE, to("https://other.invalid/"), undefined],
  ["links", PAGE, to("/nowhere"), /answer 404/],
  ["links", PAGE, to("/sub/"), undefined],
  ["links", PAGE, to("/guide.html"), /redirects to itself|leads to itself/],
  ["links", PAGE, () => ({ body: "" }), undefined],
  ["links", "/sub/", () => ({ body: "" }), /200, with an empty body: a blank page/],
  ["links", "/bird.png", page("<p>a"), /a page of HTML, instead of what img needs/],
  ["links", "/call.woff2", page("<p>a"), /a page of HTML, instead of what url\(\) needs/],
  ["links", "/notes.txt", page("<p>a"), undefined],
  [
    "links",
    "all",
    both(
      '<a href="/guide.html">a</a><a href="#top">b</a><a href="?q">c</a><a href="MAILTO:a@b.invalid">d</a>',
    ),
    undefined,
  ],
  ["links", "all", both('<base href="/sub/"><a href="./">a</a>'), undefined],
  [
    "links",
    "all",
    both('<a href="/guide.html">a</a><a href="../guide.html">b</a>'),
    /the page itself at \/sub, whose relative link "\.\.\/guide\.html"/,
  ],
  ["links", "/sub", () => ({ status: 308 }), undefined],
  ["links", "/sub", () => ({ status: 302 }), /302, a temporary redirect/],
  ["links", "/sub", to("/sub/", 301), /\/sub\/, without the query/],
  ["links", "/sub", to("", 301), /301 without a Location/],
  ["links", "/sub", to("http://[", 301), /an address that cannot be read/],
  ["links", "/sub", to("http://other.invalid/sub/", 301), /another host/],
  ["links", "/sub", to("https://127.0.0.1:1/sub/", 301), /another scheme \(https:\)/],
  ["links", "/sub", to("http://127.0.0.1:1/sub/", 301), /another port/],
  ["links", "/sub", to("/guide.html", 301), /redirect \/guide\.html/],
  ["links", "/sub", () => ({ status: 404, fields: { Location: "" } }), undefined],
  ["links", "/sub", page("<p>a", { Location: "" }), undefined],
  [
    "links",
    "/sub",
    () => ({ status: 200, fields: { ...PAGE_TYPE, Location: "" }, body: FILES["/sub/"]![1] }),
    /the page itself at \/sub, whose relative link "\.\/"/,
  ],
  ["methods", "all", {}, undefined],
  ["methods", "all", on("OPTIONS", { fields: { Allow: "" } }), /Allow nothing, with 204 to OPTIONS/],
  ["methods", "all", on("OPTIONS", { fields: { Allow: "GET, PUT" } }), /PUT is allowed, so anyone may write/],
  ["methods", "all", on("OPTIONS", { fields: { Allow: "HEAD" } }), /Allow HEAD/],
  ["methods", "all", on("OPTIONS", { status: 405, fields: { Allow: "" } }), undefined],
  ["methods", "all", on("OPTIONS", { status: 501 }), undefined],
  ["methods", "all", on("OPTIONS", { status: 500 }), /500: OPTIONS fails/],
  ["methods", "all", on("POST", { status: 412 }), /412: POST would have worked without the If-Match/],
  ["methods", "all", on("PUT", { fields: { Allow: "" } }), /405 without Allow/],
  ["methods", "all", on("DELETE", { status: 500 }), /500: it fails/],
  ["methods", "all", on("PATCH", { status: 501 }), undefined],
  ["methods", "all", on("PATCH", { status: 303 }), /303: the server does it, or says so/],
  ["methods", "all", on("POST", { status: 403 }), undefined],
  ["methods", "all", on("TRACE", { status: 200 }), /TRACE 200$/m],
  [
    "methods",
    "all",
    (headers, _, method) => (method === "TRACE" ? { status: 200, body: JSON.stringify(headers) } : {}),
    /TRACE 200, with the request's own fields in the answer/,
  ],
  ["methods", "all", (_, path) => (path === "*" ? { status: 500 } : {}), /OPTIONS \*: OPTIONS \* 500/],
  ["conditional", STYLE, { ETag: '"a' }, /its entity tag is valid: ETag "a/],
  ["conditional", STYLE, { ETag: 'w/"a"' }, /its entity tag is valid/],
  ["conditional", STYLE, { ETag: '"a b"' }, /its entity tag is valid/],
  ["conditional", STYLE, { ETag: '""' }, /^(?![\s\S]*tag is valid)/],
  ["conditional", STYLE, { ETag: 'W/"!é~"' }, /^(?![\s\S]*tag is valid)/],
  ["conditional", STYLE, { "Last-Modified": "yesterday" }, /its date is valid/],
  [
    "conditional",
    STYLE,
    { "Last-Modified": LATER },
    /its date is valid, and not in the future: Last-Modified/,
  ],
  ["conditional", STYLE, { "Last-Modified": PAST }, /^(?![\s\S]*its date is valid)/],
  ["conditional", STYLE, { ETag: '"a"' }, /asked with \*: status 200/],
  [
    "conditional",
    "all",
    { ETag: '"a"' },
    /has its own entity tag: ETag the same tag for another content: "a"/,
  ],
  [
    "conditional",
    "all",
    (_, path) => (/data|notes/.test(path) ? { fields: { ETag: '"a"' } } : {}),
    /^(?![\s\S]*has its own entity tag)/,
  ],
  ["listings", "/records/", page('<a href=".git/">a</a>'), /a list that names \.git\//],
  ["listings", "/records/", page('<a href=".well-known/">a</a>'), /^(?![\s\S]*a list that names)/],
  ["listings", "/records/", page('<a href="server.key">a</a>'), /a list that names server\.key/],
  [
    "listings",
    "/records/",
    page('<a href="deep/server.key">a</a><a href="/server.key">a</a>'),
    /^(?![\s\S]*a list that names)/,
  ],
  [
    "listings",
    "/records/",
    page('<a href="%3Cb%3E.csv"><b>.csv</a>'),
    /"<b>\.csv" written into the HTML as it is/,
  ],
  [
    "listings",
    "/records/",
    page('<a href="%3Cb%3E.csv">&lt;b>.csv</a><script>"<b>.csv"</script>'),
    /^(?![\s\S]*written into)/,
  ],
  [
    "listings",
    "/records/",
    page('<a href="50%.csv">50%.csv</a>'),
    /404 for \/records\/50%\.csv: a broken link in the list/,
  ],
  [
    "listings",
    "/records/",
    page('<a href="a.csv">a</a><a href="http://other.invalid/">b</a><img src="none.png">'),
    undefined,
  ],
  ["listings", "/records/", page('<a href="a.csv">a</a>', control("max-age=3600")), undefined],
  [
    "listings",
    "/records/",
    page('<a href="a.csv">a.csv</a>', control("max-age=3601")),
    /has no long lifetime, if it is a list/,
  ],
  [
    "listings",
    "/records/",
    page("<p>a", { "Content-Type": "text/plain" }),
    /is sent as HTML, not as text: Content-Type text\/plain/,
  ],
  ["listings", "/records/", () => ({ status: 200, body: "a list of texts" }), undefined],
  ["listings", "/records/", page("<p>/srv/www/larkholm/records"), /reveals nothing about the machine/],
  [
    "exposure",
    "/.env",
    () => ({ status: 200, body: "KEY=1" }),
    /answer 200 with 5 bytes of text\/plain at \/\.env/,
  ],
  ["exposure", "/.ENV", () => ({ status: 200, body: "KEY=1" }), /\/\.ENV \(.*, in another case\)/],
  ["exposure", "/.env", to("/guide.html"), undefined],
  ["exposure", "/.env", () => ({ status: 200 }), undefined],
  ["exposure", "none", page("<p>Larkholm"), undefined],
  ["exposure", "/guide.html.bak", () => ({ status: 200, body: "old" }), /a copy/],
  ["exposure", "/app-5f3a91bc.js~", () => ({ status: 200, body: "old" }), /a copy/],
  [
    "exposure",
    "/app-5f3a91bc.js.map",
    () => ({ status: 200, body: MAP }),
    /a source map with the program's sources, at \/app-5f3a91bc\.js\.map/,
  ],
  ["exposure", "/app-5f3a91bc.js.map", () => ({ status: 200, body: '{"version":3}' }), undefined],
  ["exposure", KEPT, inline(MAP), /has no source map: source map a source map with the program's sources/],
  ["exposure", KEPT, inline("{}"), undefined],
])("the pack %s, of %s with %j: %s", async (pack, path, change, expected) => {
  const found = failures(await runPacks(await serve(path, change), [pack])).filter(
    (line) => path === "none" || path === "all" || line.startsWith(`${pack}: ${path}`),
  );
  if (expected === undefined) expect(found).toEqual([]);
  else expect(found.join("\n")).toMatch(expected);
});
