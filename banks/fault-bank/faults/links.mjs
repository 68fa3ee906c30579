import { answer, field, files, on, withStatus } from "./plant.mjs";

const slash = (change) => withStatus(301, change);

export default [
  ["a page that another links to is gone", /heron\.html/, files({ "/guide/heron.html": undefined })],
  [
    "a style sheet's font is gone",
    /larkholm-3c9d1e22\.woff2/,
    files({ "/fonts/larkholm-3c9d1e22.woff2": undefined }),
  ],
  [
    "a style sheet's import is gone",
    /print\.css/,
    files({
      "/styles/site-5f3a91bc.css": (bytes) =>
        Buffer.concat([Buffer.from('@import "print.css" print;\n'), bytes]),
    }),
  ],
  ["a module's import is gone", /chart-71bd02aa\.js/, files({ "/scripts/chart-71bd02aa.js": undefined })],
  ["a manifest's icon is gone", /icon\.png/, files({ "/pictures/icon.png": undefined })],
  [
    "a picture of a source set is gone",
    /heron-large\.png/,
    files({ "/pictures/heron-large.png": undefined }),
  ],
  ["a style sheet is gone", /site-5f3a91bc\.css/, files({ "/styles/site-5f3a91bc.css": undefined })],
  [
    "a page leads to itself",
    /loop|itself|again/,
    answer(/^\/guide\/heron\.html$/, 301, "", { Location: "/guide/heron.html" }),
  ],
  [
    "two addresses lead to each other",
    /loop|again|itself/,
    on(/^\/(?:notes\.txt|notes)$/, (one, { target }) =>
      Object.assign(one, {
        status: 302,
        body: Buffer.alloc(0),
        fields: { Location: target === "/notes" ? "/notes.txt" : "/notes" },
      }),
    ),
  ],
  ["a download breaks off", /archive\.zip/, on(/archive\.zip$/, (one) => (one.cutAfter = 60))],
  ["a linked page breaks off", /guide/, on(/^\/guide\/$/, (one) => (one.cutAfter = 600))],
  ["a linked file fails", /feed\.atom.*500|500.*feed\.atom/, answer(/feed\.atom$/, 500, "It failed.")],
  ["a linked file is refused", /season\.csv.*403|403.*season\.csv/, answer(/season\.csv$/, 403, "No.")],
  [
    "a picture is a page",
    /heron\.png/,
    answer(/heron\.png$/, 200, "<!doctype html><title>Larkholm</title><p>Sorry."),
  ],
  [
    "the slash is added without the query",
    /query/,
    slash((one) => (one.fields.Location = one.fields.Location.replace(/\?.*/, ""))),
  ],
  [
    "the slash is added with an inner host's name",
    /backend\.internal|another host|other host/,
    slash((one) => (one.fields.Location = `http://backend.internal:8080${one.fields.Location}`)),
  ],
  [
    "the slash is added with the inner port",
    /:9|port|another host|off the site/,
    slash((one, { origin }) => (one.fields.Location = origin.replace(/:\d+$/, ":9") + one.fields.Location)),
  ],
  [
    "the slash is added with another scheme",
    /scheme|https/,
    slash(
      (one, { origin }) => (one.fields.Location = origin.replace("http:", "https:") + one.fields.Location),
    ),
  ],
  ["the slash is added for a time only", /302|301|permanent/, slash((one) => (one.status = 302))],
  [
    "the slash is added again and again",
    /loop|again|itself/,
    on(/^\/guide\/?$/, (one) =>
      Object.assign(one, { status: 301, body: Buffer.alloc(0), fields: { Location: "/guide/" } }),
    ),
  ],
  [
    "the slash is taken away again",
    /loop|again|itself/,
    on(/^\/guide\/$/, (one) =>
      Object.assign(one, { status: 301, body: Buffer.alloc(0), fields: { Location: "/guide" } }),
    ),
  ],
  ["a folder answers blank", /empty|blank|nothing/, on(/^\/guide\/$/, (one) => (one.body = Buffer.alloc(0)))],
  [
    "a folder without its slash is a page with relative links",
    /\/guide\b.*relative|relative.*\/guide\b/,
    { before: (request) => (request.target = request.target.replace(/^\/guide(?=$|\?)/, "/guide/")) },
  ],
  ["a folder without its slash is nowhere", /\/guide\b/, answer(/^\/guide$/, 404, "Nothing here.")],
  [
    "a long way to a page",
    /steps|redirect/,
    on(/^\/guide\/heron\.html$/, (one, { target }) => {
      const step = Number(/\?step=(\d+)/.exec(target)?.[1] ?? 0);
      if (step < 8)
        Object.assign(one, {
          status: 302,
          body: Buffer.alloc(0),
          fields: { Location: `/guide/heron.html?step=${step + 1}` },
        });
    }),
  ],
  [
    "a page leads off the site",
    /other-place\.invalid/,
    answer(/^\/guide\/heron\.html$/, 302, "", { Location: "//other-place.invalid/guide/heron.html" }),
  ],
  [
    "a page says that it is somewhere else",
    /Content-Location/,
    field(/^\/guide\/heron\.html$/, "Content-Location", "/guide/curlew.html"),
  ],
  [
    "a preload of what is gone",
    /gone-0a1b2c3d\.js/,
    field(/^\/$/, "Link", "</scripts/gone-0a1b2c3d.js>; rel=modulepreload"),
  ],
];
