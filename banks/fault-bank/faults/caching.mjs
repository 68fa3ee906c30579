import { asked, field, missing, withStatus } from "./plant.mjs";

const KEPT = /-[0-9a-f]{8}\./;
const PAGES = /(?:^|\/)(?:[^/.]*|[^/]*\.html)$/;
const control = (pattern, value) => field(pattern, "Cache-Control", value);
let turn = 0;

export const CACHING = [
  ["bundles are asked about each time", /fresh|long|kept/, control(KEPT, "no-cache")],
  ["bundles are kept for a minute", /fresh|long|kept/, control(KEPT, "max-age=60")],
  ["pages are kept for a year", /fresh|long|kept/, control(PAGES, "public, max-age=31536000")],
  [
    "shared caches keep pages for a year",
    /shared|s-maxage/,
    control(PAGES, "no-cache, s-maxage=31536000".replace("no-cache", "max-age=0")),
  ],
  [
    "networks keep pages for a month",
    /network|CDN-Cache-Control/i,
    field(PAGES, "CDN-Cache-Control", "max-age=2592000"),
  ],
  [
    "data is kept for ever",
    /fresh|long|kept/,
    control(/season\.(?:csv|json)$/, "public, max-age=31536000, immutable"),
  ],
  ["nothing says how long a copy is fresh", /caching|Cache-Control/, control(/./, undefined)],
  ["a lifetime without a number", /Cache-Control/, control(KEPT, "public, max-age=1y")],
  ["a lifetime that is there twice", /twice|Cache-Control/, control(KEPT, "max-age=31536000, max-age=60")],
  ["public and private", /private/, control(KEPT, "public, private, max-age=31536000")],
  ["kept and not stored", /no-store/, control(KEPT, "no-store, max-age=31536000")],
  ["immutable and asked about each time", /immutable|no-cache/, control(PAGES, "no-cache, immutable")],
  ["directives parted by semicolons", /Cache-Control/, control(KEPT, "public; max-age=31536000")],
  ["an old Pragma against it", /Pragma/, field(KEPT, "Pragma", "no-cache")],
  ["Expires in the past beside max-age", /Expires/, field(KEPT, "Expires", "Thu, 01 Jan 1970 00:00:00 GMT")],
  ["Expires that is no date", /Expires/, field(KEPT, "Expires", "next spring")],
  ["a cookie with a bundle", /[Cc]ookie/, field(KEPT, "Set-Cookie", "session=4f1d; Path=/")],
  ["a bundle for one visitor only", /private|shared/, control(KEPT, "private, max-age=31536000")],
  [
    "a redirect that is kept for a year",
    /redirect.*(?:year|kept|fresh)|(?:year|kept|fresh).*redirect/,
    withStatus(301, (one) => (one.fields["Cache-Control"] = "public, max-age=31536000")),
  ],
  ["an answer that is a day old already", /Age/, field(PAGES, "Age", "86400")],
  ["everything varies by everything", /Vary/, field(KEPT, "Vary", "*")],
  [
    "bundles vary by the browser's name",
    /Vary|User-Agent/,
    field(KEPT, "Vary", "User-Agent, Accept-Encoding"),
  ],
  ["pages vary by cookies", /Vary|Cookie/, field(/./, "Vary", "Cookie, Accept-Encoding")],
  ["stale pages for a year", /stale/, control(PAGES, "max-age=60, stale-while-revalidate=31536000")],
  [
    "an error is kept for a day",
    /kept|cach|fresh|remember/,
    missing((one) => (one.fields["Cache-Control"] = "max-age=86400")),
  ],
];

export const CONDITIONAL = [
  ["a copy's tag is not looked at", /304|tag/, asked(({ headers }) => delete headers["if-none-match"])],
  ["a copy's date is not looked at", /304|date/, asked(({ headers }) => delete headers["if-modified-since"])],
  [
    "tags are compared letter by letter",
    /weak/,
    asked((request) => {
      const held = request.headers["if-none-match"];
      if (held?.startsWith("W/")) request.headers["if-none-match"] = '"other"';
    }),
  ],
  [
    "of a list of tags the first counts",
    /list/,
    asked(({ headers }) => (headers["if-none-match"] = headers["if-none-match"]?.split(",")[0])),
  ],
  [
    "any tag is the right one",
    /another|200/,
    asked(({ headers }) => headers["if-none-match"] !== undefined && (headers["if-none-match"] = "*")),
  ],
  [
    "any date is late enough",
    /older|date/,
    asked(
      ({ headers }) =>
        headers["if-modified-since"] !== undefined &&
        (headers["if-modified-since"] = new Date().toUTCString()),
    ),
  ],
  [
    "dates are compared for being the same",
    /later|date/,
    {
      style: { tags: "none" },
      ...asked(
        ({ headers }) =>
          headers["if-modified-since"] !== undefined &&
          headers["if-modified-since"] !== "Thu, 01 Oct 2026 08:00:00 GMT" &&
          delete headers["if-modified-since"],
      ),
    },
  ],
  [
    "a date goes before a tag",
    /before|date|another/,
    asked(({ headers }) => headers["if-modified-since"] !== undefined && delete headers["if-none-match"]),
  ],
  [
    "everything has one tag",
    /same tag|one tag|tag/i,
    {
      after: (one, { headers }) => {
        if (one.fields.ETag === undefined) return;
        one.fields.ETag = '"larkholm"';
        if (headers["if-none-match"] === '"larkholm"')
          Object.assign(one, { status: 304, body: Buffer.alloc(0) });
      },
    },
  ],
  ["a tag without quotes", /ETag|quotes/, field(/./, "ETag", (tag) => tag?.replaceAll('"', ""))],
  [
    "a tag that is another each time",
    /each time|another|same/,
    field(/./, "ETag", (tag) => tag && `"${turn++}"`),
  ],
  [
    "a date that is now each time",
    /now|each time|Last-Modified/,
    {
      style: { tags: "none" },
      ...field(/./, "Last-Modified", () => new Date(Date.now() - 1000 * (turn++ % 7)).toUTCString()),
    },
  ],
  [
    "a date in the future",
    /future|Last-Modified|later/,
    field(/./, "Last-Modified", (date) => date && "Fri, 01 Oct 2049 08:00:00 GMT"),
  ],
  [
    "a date in another form",
    /Last-Modified|date/,
    field(/./, "Last-Modified", (date) => date && "2026-10-01T08:00:00Z"),
  ],
  ["304 without the tag", /ETag/, withStatus(304, (one) => (one.fields.ETag = undefined))],
  [
    "304 without the lifetime",
    /Cache-Control/,
    withStatus(304, (one) => (one.fields["Cache-Control"] = undefined)),
  ],
  [
    "304 with another lifetime",
    /Cache-Control/,
    withStatus(304, (one) => (one.fields["Cache-Control"] = "max-age=999")),
  ],
  ["304 without what it varies by", /Vary/, withStatus(304, (one) => (one.fields.Vary = undefined))],
  ["304 with another tag", /ETag/, withStatus(304, (one) => (one.fields.ETag = '"another"'))],
  ["412 for who only asks", /412/, withStatus(304, (one) => (one.status = 412))],
  ["what must be unchanged is not looked at", /412/, asked(({ headers }) => delete headers["if-match"])],
  [
    "what must be unchanged since is not looked at",
    /412/,
    asked(({ headers }) => delete headers["if-unmodified-since"]),
  ],
  [
    "* is not known",
    /\*/,
    asked(({ headers }) => headers["if-none-match"] === "*" && delete headers["if-none-match"]),
  ],
  [
    "a date that cannot be read is now",
    /none|date/,
    asked(
      ({ headers }) =>
        headers["if-modified-since"] === "yesterday" &&
        (headers["if-modified-since"] = new Date().toUTCString()),
    ),
  ],
];
