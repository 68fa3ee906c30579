import { on, withStatus } from "./plant.mjs";

const wait = (milliseconds) => new Promise((done) => setTimeout(done, milliseconds));
const page = (change) =>
  on(/^\/guide\/$/, (one, request) => (request.method === "GET" ? change(one) : undefined));

export default [
  [
    "a body after 304",
    /304|body/,
    withStatus(304, (one) =>
      Object.assign(one, { keepBody: true, body: Buffer.from("<p>It has not changed.") }),
    ),
  ],
  [
    "a length that is too long",
    /length|breaks off|ended before|short/i,
    page((one) =>
      Object.assign(one.fields, { "Content-Length": String(one.body.length + 40), Connection: "close" }),
    ),
  ],
  [
    "a length that is too short",
    /length|more|after/i,
    page((one) => (one.fields["Content-Length"] = String(one.body.length - 40))),
  ],
  [
    "bytes after an answer",
    /after|more/,
    on(/season\.json$/, (one, { method }) =>
      method === "GET" ? (one.extra = Buffer.from("\n<!-- 12 ms -->")) : undefined,
    ),
  ],
  ["no Date", /Date/, on(/./, (one) => (one.fields.Date = undefined))],
  [
    "a Date that is wrong by a day",
    /Date/,
    on(/./, (one) => (one.fields.Date = new Date(Date.now() - 86_400_000).toUTCString())),
  ],
  ["a Date that is none", /Date/, on(/./, (one) => (one.fields.Date = new Date().toISOString()))],
  ["a slow first byte", /first byte|slow|second/, on(/^\/guide\/$/, () => wait(1300))],
  [
    "a length and chunks",
    /length|Transfer-Encoding/i,
    page((one) => (one.head = `Transfer-Encoding: chunked\r\n`)),
  ],
  ["two lengths", /Content-Length/, page((one) => (one.head = `Content-Length: ${one.body.length}\r\n`))],
  ["two types", /Content-Type/, on(/season\.json$/, (one) => (one.head = "Content-Type: text/html\r\n"))],
  [
    "two entity tags",
    /ETag/,
    on(/season\.csv$/, (one) => (one.status === 200 ? (one.head = 'ETag: "another"\r\n') : undefined)),
  ],
  ["an older protocol", /HTTP\/1\.0|version/, on(/./, (one) => Object.assign(one, { http: "HTTP/1.0" }))],
  [
    "a field's name with a blank",
    /name|blank|field/,
    on(/^\/notes\.txt$/, (one) => (one.head = "X-Season : autumn\r\n")),
  ],
  [
    "a field folded over two lines",
    /fold|line|field/,
    on(/^\/notes\.txt$/, (one) => (one.head = "X-Season: autumn\r\n and winter\r\n")),
  ],
  [
    "a control character in a field",
    /field|character|control/,
    on(/^\/notes\.txt$/, (one) => (one.head = "X-Season: autumn\x01\r\n")),
  ],
  [
    "the last chunk does not come",
    /chunk|broke|ended|end/,
    { style: { framing: "chunked" }, ...page((one) => (one.cutAfter = one.body.length)) },
  ],
  ["no answer at all", /connection|ended|answer/, on(/^\/notes\.txt$/, (one) => (one.cut = true))],
  [
    "an answer that never ends",
    /no answer within|incomplete|never|hang/,
    on(/^\/feed\.atom$/, (one) => (one.fields["Content-Length"] = String(one.body.length + 10))),
  ],
];
