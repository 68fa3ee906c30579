// The made-up site that the bank's servers serve: a page, what it loads, folders, a picture, a long text, an application.
import { createHash } from "node:crypto";
import { brotliCompressSync, crc32, gzipSync } from "node:zlib";
import { picture } from "../survey-bank/good.mjs";

const html = (title, body) =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${title}</title><link rel="stylesheet" href="/styles/site-5f3a91bc.css"><script type="module" src="/scripts/app-9c1be07d.js"></script></head><body><h1>${title}</h1>${body}</body></html>`;
const words = "The heron stands in the shallows and waits. The curlew calls over the flats. ";

/** A sound of one channel, 8,000 samples a second. */
function sound(samples) {
  const head = Buffer.alloc(44);
  head.write("RIFF", 0);
  head.writeUInt32LE(36 + samples, 4);
  head.write("WAVEfmt ", 8);
  head.writeUInt32LE(16, 16);
  for (const [value, at] of [
    [1, 20],
    [1, 22],
    [1, 32],
    [8, 34],
  ])
    head.writeUInt16LE(value, at);
  head.writeUInt32LE(8000, 24);
  head.writeUInt32LE(8000, 28);
  head.write("data", 36);
  head.writeUInt32LE(samples, 40);
  return Buffer.concat([head, Buffer.from(Array.from({ length: samples }, (_, i) => (i * 37) % 251))]);
}

/** What begins as a font and has the length that it says (WOFF2 §4.1). */
function font(length) {
  const bytes = Buffer.alloc(length, 5);
  bytes.write("wOF2", 0);
  bytes.writeUInt32BE(0x00010000, 4);
  bytes.writeUInt32BE(length, 8);
  bytes.writeUInt32BE(0x000a0000, 12);
  return bytes;
}

/** An icon file of one picture. */
function icon(png) {
  const head = Buffer.from([0, 0, 1, 0, 1, 0, 16, 16, 0, 0, 1, 0, 32, 0, 0, 0, 0, 0, 22, 0, 0, 0]);
  head.writeUInt32LE(png.length, 14);
  return Buffer.concat([head, png]);
}

/** An archive of one file that is not compressed. */
function archive(name, bytes) {
  const local = Buffer.alloc(30);
  local.writeUInt32LE(0x04034b50, 0);
  local.writeUInt16LE(20, 4);
  local.writeUInt32LE(crc32(bytes), 14);
  for (const at of [18, 22]) local.writeUInt32LE(bytes.length, at);
  local.writeUInt16LE(name.length, 26);
  const entry = Buffer.alloc(46);
  entry.writeUInt32LE(0x02014b50, 0);
  entry.writeUInt16LE(20, 6);
  entry.writeUInt32LE(crc32(bytes), 16);
  for (const at of [20, 24]) entry.writeUInt32LE(bytes.length, at);
  entry.writeUInt16LE(name.length, 28);
  const end = Buffer.alloc(22);
  const offset = local.length + name.length + bytes.length;
  end.writeUInt32LE(0x06054b50, 0);
  for (const at of [8, 10]) end.writeUInt16LE(1, at);
  end.writeUInt32LE(entry.length + name.length, 12);
  end.writeUInt32LE(offset, 16);
  return Buffer.concat([local, Buffer.from(name), bytes, entry, Buffer.from(name), end]);
}

const FILES = {
  "/index.html": html(
    "Larkholm",
    `<p>${words.repeat(20)}</p><a href="/guide/">Guide</a> <a href="/records/season.csv">Records</a> <a href="/explorer/">Explorer</a><img src="/pictures/heron.png" alt="A heron"><a href="/calls/curlew.wav">Call</a> <a href="/notes.txt">Notes</a> <a href="/feed.atom">Feed</a> <a href="/records/season.json">JSON</a> <a href="/records/archive.zip">Archive</a> <img srcset="/pictures/heron.png 1x, /pictures/heron-large.png 2x" alt=""><link rel="icon" href="/favicon.ico"><link rel="manifest" href="/larkholm.webmanifest">`,
  ),
  "/guide/index.html": html(
    "Guide",
    `<p>${words.repeat(18)}</p><a href="heron.html">Heron</a> <a href="/">Home</a>`,
  ),
  "/guide/heron.html": html("Heron", `<p>${words.repeat(16)}</p><a href="./">Guide</a>`),
  "/styles/site-5f3a91bc.css": `@font-face { font-family: Larkholm; src: url("/fonts/larkholm-3c9d1e22.woff2") } body { color: #123 } /* url(old.png) ${words.repeat(20)} */`,
  "/scripts/app-9c1be07d.js": `// ${words.repeat(20)}\nimport { draw } from "./chart-71bd02aa.js";\nexport const place = draw("Larkholm");\n`,
  "/scripts/chart-71bd02aa.js": `// ${words.repeat(18)}\nexport const draw = (name) => name;\n`,
  "/fonts/larkholm-3c9d1e22.woff2": font(1500),
  "/larkholm.webmanifest": JSON.stringify({
    name: "Larkholm",
    start_url: "/",
    icons: [{ src: "/pictures/icon.png", sizes: "40x40" }],
  }),
  "/records/season.csv": `bird,count\n${"heron,3\ncurlew,12\n".repeat(120)}`,
  "/records/season.json": JSON.stringify({
    birds: Array.from({ length: 120 }, (_, i) => ({ id: i, bird: "heron" })),
  }),
  "/notes.txt": `<b>Notes</b> ${words.repeat(12)}`,
  "/feed.atom": `<?xml version="1.0" encoding="utf-8"?><feed xmlns="http://www.w3.org/2005/Atom"><title>${words.repeat(20)}</title></feed>`,
  "/pictures/heron.png": picture(40, 2000),
  "/pictures/heron-large.png": picture(80, 4000),
  "/pictures/icon.png": picture(40, 900),
  "/calls/curlew.wav": sound(8000),
  "/records/archive.zip": archive("season.csv", Buffer.from("bird,count\nheron,3\n")),
  "/favicon.ico": icon(picture(16, 900)),
  "/explorer/index.html": `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Explorer</title><base href="/explorer/"></head><body><div id="app"></div>${words.repeat(10)}</body></html>`,
  "/404.html": html("Not here", "<p>There is nothing at this address.</p>"),
};

export const TYPES = {
  html: "text/html; charset=utf-8",
  css: "text/css; charset=utf-8",
  js: "text/javascript; charset=utf-8",
  json: "application/json",
  csv: "text/csv; charset=utf-8",
  txt: "text/plain; charset=utf-8",
  atom: "application/atom+xml",
  png: "image/png",
  wav: "audio/wav",
  ico: "image/x-icon",
  zip: "application/zip",
  woff2: "font/woff2",
  webmanifest: "application/manifest+json",
  map: "application/json",
};

const TEXT = /\.(?:html|css|js|json|csv|txt|atom|webmanifest|map)$/;

/** A file with its bytes, its type, its tag and its codings. */
export function makeFile(path, content) {
  const bytes = Buffer.from(content);
  return {
    path,
    bytes,
    type: TYPES[path.slice(path.lastIndexOf(".") + 1)] ?? "application/octet-stream",
    tag: createHash("sha256").update(path).update(bytes).digest("hex").slice(0, 16),
    isText: TEXT.test(path),
    coded: { br: brotliCompressSync(bytes), gzip: gzipSync(bytes) },
  };
}

export const SITE = new Map(Object.entries(FILES).map(([path, content]) => [path, makeFile(path, content)]));

/** The site with some files changed: a text or bytes in their place, or undefined for one that is gone. */
export function changeSite(changes) {
  const site = new Map(SITE);
  for (const [path, content] of Object.entries(changes)) {
    if (content === undefined) site.delete(path);
    else
      site.set(
        path,
        makeFile(path, typeof content === "function" ? content(SITE.get(path)?.bytes, SITE) : content),
      );
  }
  return site;
}

export const MODIFIED = new Date("2026-10-01T08:00:00Z").toUTCString();
