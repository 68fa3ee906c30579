import { answer, field, on } from "./plant.mjs";

const PAGE = /(?:^|\/)(?:[^/.]*|[^/]*\.html)$/;

export default [
  [
    "an origin is given back, with credentials",
    /origin|credentials/i,
    {
      after: (one, { headers }) =>
        headers.origin !== undefined
          ? Object.assign(one.fields, {
              "Access-Control-Allow-Origin": headers.origin,
              "Access-Control-Allow-Credentials": "true",
              Vary: "Origin, Accept-Encoding",
            })
          : undefined,
    },
  ],
  [
    "an origin is given back, and nothing varies",
    /Vary|[Oo]rigin/,
    {
      after: (one, { headers }) =>
        headers.origin !== undefined
          ? Object.assign(one.fields, { "Access-Control-Allow-Origin": headers.origin })
          : undefined,
    },
  ],
  [
    "everybody, with credentials",
    /[Cc]redentials/,
    field(/./, "Access-Control-Allow-Credentials", "true"),
    { cors: true },
  ],
  [
    "two origins in one field",
    /[Oo]rigin/,
    field(/./, "Access-Control-Allow-Origin", "https://a.invalid, https://b.invalid"),
  ],
  [
    "the null origin is let in",
    /null/,
    {
      after: (one, { headers }) =>
        headers.origin === "null"
          ? Object.assign(one.fields, {
              "Access-Control-Allow-Origin": "null",
              Vary: "Origin, Accept-Encoding",
            })
          : undefined,
    },
  ],
  [
    "fonts are not open to the origins that the rest is open to",
    /font/,
    field(/\.woff2$/, "Access-Control-Allow-Origin", undefined),
    { cors: true },
  ],
  ["nosniff is misspelt", /nosniff/i, field(/./, "X-Content-Type-Options", "no-sniff")],
  [
    "a page is a download",
    /Content-Disposition|download|attachment/,
    field(PAGE, "Content-Disposition", 'attachment; filename="page.html"'),
  ],
  [
    "a script is a download",
    /Content-Disposition|download|attachment/,
    field(/\.js$/, "Content-Disposition", "attachment"),
  ],
  [
    "a policy that stops the page's own scripts",
    /Content-Security-Policy|policy/i,
    field(PAGE, "Content-Security-Policy", "default-src 'none'"),
  ],
  [
    "a policy that cannot be read",
    /Content-Security-Policy|policy/i,
    field(PAGE, "Content-Security-Policy", "default-src: 'self'"),
  ],
  [
    "every visit empties the browser",
    /Clear-Site-Data/,
    field(PAGE, "Clear-Site-Data", '"cache", "storage"'),
  ],
  ["a page is loaded again each second", /Refresh/, field(PAGE, "Refresh", "1")],
  [
    "a page leads off the site by Refresh",
    /Refresh|other-place/,
    field(PAGE, "Refresh", "0; url=https://other-place.invalid/"),
  ],
  [
    "a redirect off the site by two slashes",
    /off|stays|host|site/,
    {
      after: (one, { target }) =>
        /^\/\/[\w.-]+/.test(target)
          ? answer(/./, 301, "", { Location: `${target.replace(/\/?(?:%2e%2e)?$/i, "")}/` }).after(one, {
              target,
            })
          : undefined,
    },
  ],
  ["frames by an old name and a wrong value", /X-Frame-Options/, field(PAGE, "X-Frame-Options", "ALLOWALL")],
  [
    "the page for what is missing has no policy",
    /policy|Content-Security-Policy/i,
    field(PAGE, "Content-Security-Policy", "default-src 'self'; object-src 'none'; base-uri 'none'"),
  ],
  [
    "the program and its version are named",
    /Server|version|X-Powered-By/,
    field(/./, "X-Powered-By", "Larkfly 2.1.4"),
  ],
  ["a cookie that scripts can read", /[Cc]ookie/, field(PAGE, "Set-Cookie", "session=4f1d")],
  ["a language that is none", /Content-Language/, field(PAGE, "Content-Language", "english")],
  [
    "a page is busy now and then",
    /503|busy/,
    on(/^\/guide\/heron\.html$/, (one) => Object.assign(one, { status: 503 })),
  ],
].map(([what, words, fault, style]) => [what, words, style === undefined ? fault : { ...fault, style }]);
