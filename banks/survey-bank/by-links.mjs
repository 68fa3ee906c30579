// Planted problems in what pages, styles, scripts and settings say. Each row: [what, code, address, files, rules, beside].
import { brotliCompressSync, gzipSync } from "node:zlib";
import { page, picture } from "./good.mjs";

const latin1 = (text) => Buffer.from(text, "latin1");
const at = (body) => ({ "guide/index.html": page(body) });
const GUIDE = "/guide/index.html";
const jpeg = (tags) => {
  // Exif in little-endian order: a directory with the pointers that are asked for.
  const tiff = Buffer.alloc(200);
  tiff.write("II*\0\x08\0\0\0", 0, "latin1");
  tiff.writeUInt16LE(tags.length, 8);
  tags.forEach(([tag, write], index) => {
    const entry = 10 + index * 12;
    tiff.writeUInt16LE(tag, entry);
    tiff.writeUInt32LE(100, entry + 8);
    write(tiff);
  });
  const app1 = Buffer.concat([latin1("Exif\0\0"), tiff]);
  const length = Buffer.alloc(2);
  length.writeUInt16BE(app1.length + 2);
  return Buffer.concat([
    latin1("\xff\xd8\xff\xe1"),
    length,
    app1,
    latin1("\xff\xc0\0\x0b\x08\0\x02\0\x02\x01\x01\x11\0\xff\xd9"),
  ]);
};
const PLACE = jpeg([
  [
    0x8825,
    (tiff) => {
      tiff.writeUInt16LE(2, 100);
      tiff.writeUInt16LE(2, 102);
      tiff.writeUInt16LE(4, 114);
    },
  ],
]);
const OWNER = jpeg([
  [
    0x8769,
    (tiff) => {
      tiff.writeUInt16LE(1, 100);
      tiff.writeUInt16LE(0xa430, 102);
      tiff.writeUInt32LE(12, 106);
      tiff.writeUInt32LE(130, 110);
      tiff.write("A. Redshank\0", 130);
    },
  ],
]);
const box = (type, size) => {
  const head = Buffer.alloc(8);
  head.writeUInt32BE(size);
  head.write(type, 4);
  return head;
};
const bmp = (width, bytes) => {
  const head = Buffer.alloc(54 + bytes);
  head.write("BM");
  head.writeUInt32LE(head.length, 2);
  head.writeInt32LE(width, 18);
  head.writeInt32LE(1, 22);
  return head;
};

export const IN_PAGES = [
  [
    "a picture in a style attribute",
    "broken-reference",
    "/guide/none.png",
    at('<p style="background:url(none.png)">a</p>'),
  ],
  [
    "a picture in a style element",
    "broken-reference",
    "/guide/none.png",
    at("<style>p{background:url(none.png)}</style>"),
  ],
  [
    "a page that leads on",
    "broken-reference",
    "/guide/none.html",
    at('<meta http-equiv="refresh" content="3; url=none.html">'),
  ],
  ["a part of a drawing", "broken-reference", "/none.svg", at('<svg><use href="/none.svg#a"/></svg>')],
  [
    "a drawing that loads another",
    "broken-reference",
    "/none.png",
    { "a.svg": '<svg xmlns="http://www.w3.org/2000/svg"><image href="none.png"/></svg>' },
  ],
  [
    "an import map",
    "broken-reference",
    "/lib/none.js",
    at('<script type="importmap">{"imports":{"lib":"/lib/none.js"}}</script>'),
  ],
  [
    "a module in the page",
    "broken-reference",
    "/lib/none.js",
    at('<script type="module">import "/lib/none.js";</script>'),
  ],
  [
    "a name of a module",
    "module-without-address",
    GUIDE,
    at('<script type="module">import { html } from "lit";</script>'),
  ],
  [
    "a name in a module's file",
    "module-without-address",
    "/scripts/site.js",
    { "scripts/site.js": 'import { html } from "lit";' },
  ],
  [
    "a sitemap",
    "broken-reference",
    "/none/",
    {
      "sitemap.xml":
        '<?xml version="1.0"?><urlset><url><loc>https://larkholm.example/guide/</loc></url><url><loc>https://larkholm.example/none/</loc></url></urlset>',
    },
  ],
  [
    "a place that is not in a page",
    "broken-fragment",
    GUIDE,
    { "index.html": page('<a href="/guide/#none">a</a><a href="/guide/index.html#none">b</a>') },
  ],
  ["a place that is not in the page itself", "broken-fragment", GUIDE, at('<a href="#none">a</a>')],
  ["a backslash", "reference-with-backslash", GUIDE, at('<img src="..\\pictures\\heron.png" alt="">')],
  [
    "a file of the maker's machine",
    "loads-from-own-machine",
    GUIDE,
    at('<img src="file:///C:/larkholm/heron.png" alt="">'),
  ],
  [
    "a link to a file of the maker's machine",
    "link-to-own-machine",
    GUIDE,
    at('<a href="file:///home/ringer/a.html">a</a>'),
  ],
  [
    "a script of a server under test",
    "loads-from-own-machine",
    GUIDE,
    at('<script src="http://localhost:5173/a.js"></script>'),
  ],
  [
    "a link to a server under test",
    "link-to-own-machine",
    GUIDE,
    at('<a href="http://127.0.0.1:8080/">a</a>'),
  ],
  [
    "a link to what is withheld",
    "broken-reference",
    "/drafts/a.html",
    { ...at('<a href="/drafts/a.html">a</a>'), "drafts/a.html": page("") },
    { withheld: ["drafts/"] },
  ],
  [
    "a link that is not followed",
    "broken-reference",
    "/now.html",
    { ...at('<a href="/now.html">a</a>'), "now.html": { link: "index.html" } },
    { links: "none" },
  ],
  [
    "an error page with relative addresses",
    "relative-in-error-page",
    "/404.html",
    {
      "404.html":
        '<!doctype html><meta charset="utf-8"><title>Gone</title><link rel="stylesheet" href="style.css">',
    },
    { errorPages: { 404: "/404.html" } },
  ],
  ["another form of the way up", "broken-reference", "/none/", at('<a href="../none/">a</a>')],
  ["a frame", "broken-reference", "/guide/map.html", at('<iframe src="map.html"></iframe>')],
  ["a picture of an object", "broken-reference", "/guide/map.svg", at('<object data="map.svg"></object>')],
  ["subtitles", "broken-reference", "/guide/none.vtt", at('<video><track src="none.vtt"></video>')],
  ["a poster", "broken-reference", "/guide/none.png", at('<video poster="none.png"></video>')],
  ["an icon", "broken-reference", "/none.ico", at('<link rel="icon" href="/none.ico">')],
  [
    "a preloaded font",
    "broken-reference",
    "/none.woff2",
    at('<link rel="preload" as="font" href="/none.woff2">'),
  ],
  [
    "an area of a map",
    "broken-reference",
    "/guide/none.html",
    at('<map><area href="none.html" alt=""></map>'),
  ],
  ["a style sheet of a style sheet", "broken-reference", "/none.css", { "style.css": '@import "none.css";' }],
  [
    "a link in noscript",
    "broken-reference",
    "/guide/none.html",
    at('<noscript><a href="none.html">a</a></noscript>'),
  ],
  [
    "a page of two megabytes",
    "broken-reference",
    "/guide/none.html",
    at(`<a href="none.html">a</a>${"<p>heron</p>".repeat(200_000)}`),
    undefined,
    ["large-without-coding"],
  ],
  [
    "a style sheet without the prefix",
    "reference-outside-prefix",
    "/a/pictures/heron.png".replace("/a", ""),
    { "style.css": "a{background:url(/pictures/heron.png)}" },
    { at: "/a" },
    ["reference-outside-prefix", "broken-reference"],
  ],
];

export const IN_FILES = [
  [
    "a page that is called a document",
    "content-contradicts-name",
    "/guide/a.pdf",
    { "guide/a.pdf": page("") },
  ],
  [
    "a document that is called a page",
    "content-contradicts-name",
    "/guide/a.html",
    { "guide/a.html": `%PDF-1.7\n1 0 obj\n${"x".repeat(200)}\n%%EOF` },
  ],
  [
    "a page that is called an archive",
    "content-contradicts-name",
    "/guide/a.zip",
    { "guide/a.zip": page("") },
  ],
  [
    "an archive that is called a document",
    "content-contradicts-name",
    "/guide/a.pdf",
    { "guide/a.pdf": latin1("PK\x03\x04".padEnd(100, "x")) },
  ],
  ["JSON with a comma too much", "broken-json", "/data/a.json", { "data/a.json": '{"a":1,}' }],
  [
    "a manifest that ends early",
    "broken-json",
    "/app.webmanifest",
    { "app.webmanifest": '{"name":"Larkholm"' },
  ],
  [
    "a drawing that is not closed",
    "broken-xml",
    "/a.svg",
    { "a.svg": '<svg xmlns="http://www.w3.org/2000/svg"><g></svg>' },
  ],
  ["a feed with two roots", "broken-xml", "/feed.xml", { "feed.xml": '<?xml version="1.0"?><a/><b/>' }],
  [
    "Latin-1 that is said to be UTF-8",
    "charset-differs",
    "/guide/k.html",
    { "guide/k.html": latin1('<!doctype html><meta charset="utf-8"><title>K\xfcste</title>') },
  ],
  [
    "UTF-8 that is said to be Latin-1",
    "charset-differs",
    "/guide/k.html",
    { "guide/k.html": '<!doctype html><meta charset="iso-8859-1"><title>Küste</title>' },
  ],
  [
    "UTF-16 that is said to be UTF-8",
    "charset-differs",
    "/notes.txt",
    { "notes.txt": Buffer.from("Dunlins on the beach\n", "utf16le") },
  ],
  [
    "scripts that are sent as texts",
    "type-not-run",
    "/scripts/site.js",
    {},
    { mediaTypes: { ".js": "text/plain" } },
  ],
  [
    "styles that are sent as bytes",
    "type-not-run",
    "/style.css",
    {},
    { mediaTypes: { ".css": "application/octet-stream" } },
  ],
  [
    "an archive that ends early",
    "cut-file",
    "/a.zip",
    { "a.zip": latin1(`PK\x03\x04\x14\0\0\0\x08\0${"x".repeat(100)}`) },
  ],
  [
    "a compressed file that ends early",
    "cut-file",
    "/calls.csv.gz",
    { "calls.csv.gz": gzipSync("heron,3\n".repeat(4000)).subarray(0, 60) },
  ],
  [
    "a film that ends early",
    "cut-file",
    "/films/a.mp4",
    {
      "films/a.mp4": Buffer.concat([
        box("ftyp", 16),
        Buffer.from("isom\0\0\0\0"),
        box("mdat", 9000),
        Buffer.alloc(400),
      ]),
    },
  ],
  [
    "a compressed file of an older build",
    "prebuilt-differs",
    "/style.css.gz",
    { "style.css.gz": gzipSync("body{color:red;background:white}") },
    { codings: { prebuilt: ["gzip"] } },
  ],
  [
    "another one",
    "prebuilt-differs",
    "/style.css.br",
    { "style.css.br": brotliCompressSync("body{color:red;background:white;margin:0}") },
    { codings: { prebuilt: ["br"] } },
  ],
  [
    "a compressed file that is older",
    "prebuilt-older",
    "/style.css.gz",
    {
      "style.css.gz": {
        content: gzipSync("body{background:url(pictures/heron.png)}"),
        seconds: 1_780_000_000,
      },
    },
    { codings: { prebuilt: ["gzip"] } },
  ],
  [
    "a recording as it was made",
    "uncompressed-media",
    "/calls/a.wav",
    { "calls/a.wav": Buffer.alloc(1_200_000) },
    undefined,
    ["content-contradicts-name"],
  ],
  ["a scan as it was made", "uncompressed-media", "/scans/a.bmp", { "scans/a.bmp": bmp(600, 1_200_000) }],
  [
    "a service worker that is kept",
    "service-worker-kept",
    "/sw.js",
    { "sw.js": 'self.addEventListener("install", (e) => e.waitUntil(self.skipWaiting()));' },
    { caching: [{ files: "*.js", policy: { maxAge: "1d" } }] },
  ],
  [
    "a file from the future",
    "future-times",
    "/guide/b.html",
    { "guide/b.html": { content: page(""), seconds: 4_000_000_000 } },
  ],
  [
    "a compressed drawing that names what is not there",
    "broken-reference",
    "/pictures/gone.png",
    {
      "pictures/map.svgz": gzipSync('<svg xmlns="http://www.w3.org/2000/svg"><image href="gone.png"/></svg>'),
      ...at('<img src="/pictures/map.svgz" alt="">'),
    },
  ],
  [
    "a large picture without dimensions",
    "picture-over-budget",
    "/pictures/wide.png",
    { "pictures/wide.png": picture(800, 1_400_000), ...at('<img src="/pictures/wide.png" alt="">') },
  ],
  [
    "an icon that is a poster",
    "picture-larger-than-shown",
    "/pictures/icon.png",
    {
      "pictures/icon.png": picture(1024, 200_000),
      ...at('<link rel="icon" sizes="32x32" href="/pictures/icon.png">'),
    },
  ],
  [
    "a picture that a style makes small",
    "picture-larger-than-shown",
    "/pictures/wide.bmp",
    {
      "pictures/wide.bmp": bmp(1600, 200_000),
      ...at('<img src="/pictures/wide.bmp" style="width: 200px" alt="">'),
    },
  ],
  ["a photo with its place", "picture-tells-place", "/pictures/nest.jpg", { "pictures/nest.jpg": PLACE }],
  ["a photo with its owner", "picture-names-owner", "/pictures/nest.jpg", { "pictures/nest.jpg": OWNER }],
  ["the name of a device", "name-not-portable", "/notes/con.txt", { "notes/con.txt": "x" }],
  ["a name with a dot at its end", "name-not-portable", "/notes/plover.", { "notes/plover.": "x" }],
  ["a name with a colon", "name-not-portable", "/notes/9:00.txt", { "notes/9:00.txt": "x" }],
  ["a question in a name", "name-not-portable", "/notes/heron%3F.txt", { "notes/heron?.txt": "x" }],
  [
    "a repository under another name",
    "version-control",
    "/site.backup",
    {
      "site.backup/HEAD": "ref: refs/heads/main\n",
      "site.backup/objects/a": "x",
      "site.backup/refs/heads/main": "0",
    },
  ],
  [
    "a working copy under another name",
    "version-control",
    "/vcs",
    { "vcs/wc.db": "x", "vcs/pristine/a": "x", "vcs/entries": "12\n" },
  ],
  [
    "a folder that was put away",
    "old-pages",
    "/guide-old",
    { "guide-old/index.html": page(""), "guide-old/waders.html": page("") },
  ],
  [
    "a folder of pages without a document",
    "folder-without-document",
    "/reports",
    { "reports/2025.html": page("") },
  ],
];
