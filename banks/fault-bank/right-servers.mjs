// Right servers, each in another style: no check may fail on one. [what it does, style]
export const RIGHT_SERVERS = [
  ["strong tags, dates, compression on the fly", {}],
  ["weak tags alone", { tags: "weak", dates: false }],
  ["dates alone, with Expires", { tags: "none", freshness: "expires" }],
  ["no compression", { coding: "none" }],
  ["prebuilt codings alone", { coding: "prebuilt" }],
  ["no ranges", { ranges: false }],
  ["absolute Location", { location: "absolute" }],
  ["chunked bodies", { framing: "chunked" }],
  ["connections that close", { keepAlive: false }],
  ["304 with Content-Length", { lengthOn304: true }],
  ["an application with a shell under a prefix", { shell: true }],
  ["listings", { listing: true }],
  ["several parts in one answer", { multipart: true }],
  ["open to other origins", { cors: true }],
  ["field names in lower case", { fieldCase: "lower" }],
  ["behind a proxy that adds TLS", { secure: true }],
  ["no more fields than it needs", { bare: true }],
  [
    "weak tags, Expires, no compression, no ranges",
    { tags: "weak", freshness: "expires", coding: "none", ranges: false, fieldCase: "lower" },
  ],
].map(([what, style]) => ({ what, style }));
