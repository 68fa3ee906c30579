// For the reference: each key once as it is written, and once as it is often written wrongly. The script holds both against the schemas.

/** Rules of a configuration, as they are often written wrongly; the right way is the rule's own example. */
export const RULES = {
  withheld: "'*.bak'",
  defaultDocuments: "[/index.html]",
  impliedExtensions: "[html]",
  longAddresses: "short",
  listing: "yes please",
  notListed: "'*.map'",
  appShell: "true",
  errorPages: "{ 401: /401.html }",
  whenMissing: "ignore",
  mediaTypes: "{ glb: model/gltf-binary }",
  charset: "utf 8",
  codings: "[br]",
  variants: "{ formats: [.avif] }",
  validators: "etag",
  digests: "sha256",
  caching: "immutable",
  noVarySearch: "utm_source",
  headers: '[{ files: "*.html", set: { Cache-Control: no-store } }]',
  downloads: "[{ files: report.pdf, saveAs: a/b.pdf }]",
  protect: "{ framing: self }",
  preloads: "[main.js]",
  crossOrigin: "https://maps.larkholm.example/",
};

/** The other keys of a mount. */
export const MOUNT = {
  at: ["/archive", "archive"],
  folder: ["./public", "[./public]"],
  kind: ["app", "spa"],
  links: ["none", "follow"],
  fingerprints: ["[bundles/*]", "bundles/*"],
  earlierReleases: ["[../releases/41]", "../releases/41"],
  areas: ["{ /records: { listing: true } }", "{ records: { listing: true } }"],
};

/** The other keys of a configuration. */
export const SITE = {
  mounts: ["[{ folder: ./public }]", "{ folder: ./public }"],
  moved: ["{ /birds/: /guide/ }", "{ birds: /guide/ }"],
  gone: ["[/members/]", "[/members/*]"],
  refuse: ["severe", "warning"],
  budget: ["{ picture: 300KB }", "{ picture: large }"],
  typesFile: ["/etc/mime.types", "[]"],
  $schema: ["node_modules/epistyle/dist/schema/config.json", "1"],
};

/** Keys of an expectation. */
export const EXPECTATION = {
  status: ["200", "600"],
  redirect: ["/guide/", "a b"],
  leadsTo: ["/guide/", "guide"],
  answeredBy: ["/guide/index.html", "index.html"],
  mediaType: ["text/html", "text/html; charset=utf-8"],
  charset: ["utf-8", "[]"],
  coding: ["[br, gzip]", "''"],
  caching: ["[fresh for at least 1 year, immutable]", "forever"],
  headers: ["{ X-Content-Type-Options: nosniff }", "{ ETag: present }"],
  cookies: ["{ session: { httpOnly: true } }", "{ session: {} }"],
  httpVersion: ['"1.1"', "2"],
  firstByte: ["{ atMost: 200ms }", "200"],
  body: ["{ contains: Larkholm }", "Larkholm"],
  parts: ["[{ length: 100 }]", "[{}]"],
  except: ["[caching]", "[cache]"],
};

/** Keys of an expectations file. */
export const FILE = {
  version: ["1", "2"],
  config: ["epistyle.config.yaml", "[]"],
  against: ["http://127.0.0.1:8080/", "[]"],
  variables: ["{ season: spring }", "{ the season: spring }"],
  packs: ["[conditional, caching]", "[etags]"],
  cases: ["[{ request: GET /, expect: { status: 200 } }]", "[{ request: GET }]"],
  groups: ["[{ name: pages, cases: [{ request: GET /, expect: { status: 200 } }] }]", "[{ cases: 3 }]"],
  $schema: ["node_modules/epistyle/dist/schema/expectations.json", "1"],
};
