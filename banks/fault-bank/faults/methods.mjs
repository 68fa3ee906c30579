import { on } from "./plant.mjs";

/** Answers a method as another one would be. */
const as = (method, other = "GET") => ({
  before: (request) => (request.method === method ? (request.method = other) : undefined),
});
const method = (name, change) => ({
  after: (one, request) => (request.method === name ? change(one, request) : undefined),
});
const head = (change, pattern = /./) =>
  on(pattern, (one, request) => (request.method === "HEAD" ? change(one, request) : undefined));

export const METHODS = [
  ["POST is answered with the file", /POST/, as("POST")],
  ["PUT is answered with the file", /PUT/, as("PUT")],
  ["DELETE is answered with the file", /DELETE/, as("DELETE")],
  ["PATCH is answered with the file", /PATCH/, as("PATCH")],
  [
    "DELETE says that it is done",
    /DELETE/,
    method("DELETE", (one) => Object.assign(one, { status: 204, body: Buffer.alloc(0) })),
  ],
  ["PUT says that it has written", /PUT/, method("PUT", (one) => Object.assign(one, { status: 201 }))],
  ["POST fails", /POST.*500|500.*POST/, method("POST", (one) => Object.assign(one, { status: 500 }))],
  [
    "TRACE gives the request back",
    /TRACE/,
    method("TRACE", (one, { target, headers }) =>
      Object.assign(one, {
        status: 200,
        fields: { "Content-Type": "message/http" },
        body: Buffer.from(
          `TRACE ${target} HTTP/1.1\r\n${Object.entries(headers)
            .map(([name, value]) => `${name}: ${value}\r\n`)
            .join("")}\r\n`,
        ),
      }),
    ),
  ],
  [
    "OPTIONS does not say what is allowed",
    /Allow/,
    method("OPTIONS", (one) => (one.fields.Allow = undefined)),
  ],
  ["OPTIONS is answered with the file", /OPTIONS/, as("OPTIONS")],
  [
    "OPTIONS fails for the whole server",
    /OPTIONS \*/,
    method("OPTIONS", (one, { target }) =>
      target === "*" ? Object.assign(one, { status: 500 }) : undefined,
    ),
  ],
  [
    "OPTIONS allows what is not allowed",
    /PUT|allow/i,
    method("OPTIONS", (one) => (one.fields.Allow = "GET, HEAD, OPTIONS, PUT, DELETE")),
  ],
  [
    "405 does not say what is allowed",
    /Allow/,
    on(/./, (one) => (one.status === 405 ? (one.fields.Allow = undefined) : undefined)),
  ],
  [
    "a method that nobody knows is answered with the file",
    /CHIRP|nobody knows|method/,
    {
      before: (request) =>
        /^(?:GET|HEAD|POST|PUT|DELETE|PATCH|OPTIONS|TRACE)$/.test(request.method)
          ? undefined
          : (request.method = "GET"),
    },
  ],
  [
    "a method that nobody knows makes it fail",
    /500/,
    on(/./, (one, request) =>
      /^(?:GET|HEAD|POST|PUT|DELETE|PATCH|OPTIONS|TRACE)$/.test(request.method)
        ? undefined
        : (one.status = 500),
    ),
  ],
];

export const HEAD = [
  ["HEAD is answered with a body", /body|bytes/, head((one) => (one.keepBody = true))],
  [
    "HEAD has another Cache-Control",
    /Cache-Control/,
    head((one) => (one.fields["Cache-Control"] = "no-store")),
  ],
  [
    "HEAD is not allowed",
    /405/,
    head((one) => Object.assign(one, { status: 405, fields: { Allow: "GET" } })),
  ],
  ["HEAD is not implemented", /501/, head((one) => Object.assign(one, { status: 501 }))],
  [
    "HEAD finds what is not there",
    /200|HEAD/,
    head((one) => (one.status === 404 ? (one.status = 200) : undefined)),
  ],
  [
    "HEAD does not find what is there",
    /404/,
    head((one) => (one.status === 200 ? (one.status = 404) : undefined)),
  ],
  [
    "HEAD has another type",
    /type/i,
    head((one) => (one.status === 200 ? (one.fields["Content-Type"] = "text/plain") : undefined)),
  ],
  ["HEAD has no entity tag", /ETag/, head((one) => (one.fields.ETag = undefined))],
  ["HEAD has no date of change", /Last-Modified/, head((one) => (one.fields["Last-Modified"] = undefined))],
  ["HEAD has the length 0", /Content-Length/, head((one) => (one.fields["Content-Length"] = "0"))],
  [
    "HEAD has another length",
    /Content-Length/,
    head((one) =>
      one.status === 200 ? (one.fields["Content-Length"] = String(one.body.length + 7)) : undefined,
    ),
  ],
  [
    "HEAD is not asked about a copy",
    /HEAD/,
    {
      before: (request) =>
        request.method === "HEAD" ? (request.headers["if-none-match"] = undefined) : undefined,
    },
  ],
  [
    "HEAD of a redirect is answered 200",
    /HEAD/,
    head((one) => (one.status === 301 ? Object.assign(one, { status: 200, fields: {} }) : undefined)),
  ],
  [
    "HEAD has no coding",
    /coding|Content-Encoding/i,
    head((one) => (one.fields["Content-Encoding"] = undefined)),
  ],
];
