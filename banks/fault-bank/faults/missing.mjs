import { answer, FRONT, missing, on } from "./plant.mjs";

const page = (status, text, type = "text/html; charset=utf-8") =>
  missing((one) =>
    Object.assign(one, { status, body: Buffer.from(text), fields: { ...one.fields, "Content-Type": type } }),
  );
const shell = (pattern) => ({
  style: { shell: true },
  ...on(pattern, (one) =>
    one.status === 404 ? Object.assign(one, { status: 200, body: Buffer.from(FRONT) }) : undefined,
  ),
});

export default [
  [
    "what is missing is there for HEAD",
    /HEAD|200/,
    missing((one, { method }) => {
      if (method === "HEAD") one.status = 200;
    }),
  ],
  [
    "what is not there is answered 200",
    /200|found/,
    page(200, "<!doctype html><title>Not here</title><p>There is nothing here."),
  ],
  [
    "what is not there is answered 500",
    /500/,
    page(500, "<!doctype html><title>Failed</title><p>It failed."),
  ],
  ["what is not there is answered 403", /403/, page(403, "<!doctype html><title>No</title><p>No.")],
  ["what is not there is answered 400", /400/, page(400, "<!doctype html><title>No</title><p>No.")],
  ["what is not there has no page", /empty/, page(404, "")],
  [
    "what is not there has a page without a type",
    /type/i,
    missing((one) => (one.fields["Content-Type"] = undefined)),
  ],
  [
    "the page of what is not there is sent as a text",
    /text\/plain|type/,
    missing((one) => (one.fields["Content-Type"] = "text/plain")),
  ],
  [
    "what is not there is kept for a year",
    /year|keep|kept|cach|remember/i,
    missing((one) => (one.fields["Cache-Control"] = "public, max-age=31536000")),
  ],
  [
    "what is not there is not modified",
    /304/,
    on(/./, (one, { headers }) => {
      if (one.status !== 404) return;
      one.fields.ETag = '"missing"';
      if (headers["if-none-match"] !== undefined) Object.assign(one, { status: 304, body: Buffer.alloc(0) });
    }),
  ],
  [
    "what is not there leads to the front page",
    /front|\bto \/|redirect|302/,
    missing((one) => Object.assign(one, { status: 302, fields: { Location: "/" } })),
  ],
  [
    "what is not there leads to an error page with 200",
    /redirect|302|sorry/,
    on(/./, (one, { target }) =>
      target === "/sorry"
        ? Object.assign(one, { status: 200, body: Buffer.from(FRONT) })
        : one.status === 404
          ? Object.assign(one, { status: 302, fields: { Location: "/sorry" } })
          : undefined,
    ),
  ],
  [
    "what is not there in a folder is answered 200",
    /200|guide/,
    on(/^\/guide\//, (one) => (one.status === 404 ? (one.status = 200) : undefined)),
  ],
  [
    "a picture that does not exist is a page",
    /200|picture|png/,
    on(/\.png$/, (one) => (one.status === 404 ? (one.status = 200) : undefined)),
  ],
  [
    "the error page finds its style sheet from the root alone",
    /relative|styles/,
    missing((one) => (one.body = Buffer.from(one.body.toString().replaceAll('"/styles/', '"styles/')))),
  ],
  [
    "the error tells a path of the machine",
    /path|machine|\/srv/,
    missing(
      (one, { target }) =>
        (one.body = Buffer.from(
          `<!doctype html><title>Error</title><p>ENOENT: no such file or directory, open '/srv/www/larkholm/public${encodeURI(target.split("?")[0])}'`,
        )),
    ),
  ],
  [
    "the error shows where the program stands",
    /stack|program|inside/,
    missing(
      (one) =>
        (one.body = Buffer.from(
          "<!doctype html><title>Error</title><pre>Error: not found\n    at serve (/app/src/files.js:12:9)\n    at next (/app/src/chain.js:4:1)</pre>",
        )),
    ),
  ],
  [
    "the error writes the address into its page",
    /escape|script|written|HTML/,
    missing((one, { target }) => {
      let shown = target;
      try {
        shown = decodeURIComponent(target);
      } catch {}
      one.body = Buffer.from(`<!doctype html><title>Not here</title><p>There is no ${shown}.`);
    }),
  ],
  ["the application answers for an interface", /api|JSON|program/i, shell(/^\/(?:explorer\/)?api\b/)],
  ["the application answers for a missing bundle", /script|\.js/, shell(/^\/explorer\/.*\.m?js$/)],
  ["the application answers for a missing font", /font|woff2/, shell(/\.woff2?$/)],
  ["the application answers for a missing style sheet", /style|css/, shell(/^\/explorer\/.*\.css$/)],
  ["the application answers for a missing source map", /map/, shell(/\.map$/)],
  [
    "a deep link is answered 404",
    /deep|explorer|404/,
    {
      style: { shell: true },
      ...on(/^\/explorer\/(?!index\.html$)./, (one) =>
        Object.assign(one, { status: 404, body: Buffer.from(FRONT) }),
      ),
    },
  ],
  [
    "a deep link is kept for long",
    /explorer/,
    {
      style: { shell: true },
      ...on(/^\/explorer\/deep/, (one) => (one.fields["Cache-Control"] = "public, max-age=86400")),
    },
  ],
  [
    "a deep link does not say by what it is chosen",
    /Vary/,
    {
      style: { shell: true },
      ...on(
        /^\/explorer\//,
        (one) => (one.fields.Vary = one.fields.Vary?.includes("Encoding") ? "Accept-Encoding" : undefined),
      ),
    },
  ],
  [
    "a deep link loads relative files",
    /relative|assets/,
    {
      style: { shell: true },
      changes: {
        "/explorer/index.html":
          '<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Explorer</title><script type="module" src="./assets/app-11223344.js"></script></head><body></body></html>',
      },
    },
  ],
  [
    "a deep link refuses HEAD",
    /HEAD/,
    {
      style: { shell: true },
      ...on(/^\/explorer\/deep/, (one, { method }) =>
        method === "HEAD" ? Object.assign(one, { status: 404 }) : undefined,
      ),
    },
  ],
  ["an icon that is asked for everywhere is a page", /favicon/, { ...answer(/favicon\.ico$/, 200, FRONT) }],
];
