// The made-up site that the bank's servers serve: a page, what it loads, folders, a picture, a long text, an application.
import { createHash } from "node:crypto";
import { brotliCompressSync, gzipSync } from "node:zlib";
import { picture } from "../survey-bank/good.mjs";

const html = (title, body) =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${title}</title><link rel="stylesheet" href="/styles/site-5f3a91bc.css"><script type="module" src="/scripts/app-9c1be07d.js"></script></head><body><h1>${title}</h1>${body}</body></html>`;
const words = "The heron stands in the shallows and waits. The curlew calls over the flats. ";

const FILES = {
  "/index.html": html(
    "Larkholm",
    `<p>${words.repeat(20)}</p><a href="/guide/">Guide</a> <a href="/records/season.csv">Records</a> <a href="/explorer/">Explorer</a><img src="/pictures/heron.png" alt="A heron"><a href="/calls/curlew.wav">Call</a> <a href="/notes.txt">Notes</a> <a href="/feed.atom">Feed</a> <a href="/records/season.json">JSON</a> <link rel="icon" href="/favicon.ico">`,
  ),
  "/guide/index.html": html("Guide", `<p>${words.repeat(18)}</p><a href="heron.html">Heron</a> <a href="/">Home</a>`),
  "/guide/heron.html": html("Heron", `<p>${words.repeat(16)}</p><a href="./">Guide</a>`),
  "/styles/site-5f3a91bc.css": `body { color: #123 } /* ${words.repeat(20)} */`,
  "/scripts/app-9c1be07d.js": `// ${words.repeat(20)}\nexport const place = "Larkholm";\n`,
  "/records/season.csv": `bird,count\n${"heron,3\ncurlew,12\n".repeat(120)}`,
  "/records/season.json": JSON.stringify({ birds: Array.from({ length: 120 }, (_, i) => ({ id: i, bird: "heron" })) }),
  "/notes.txt": `<b>Notes</b> ${words.repeat(12)}`,
  "/feed.atom": `<?xml version="1.0" encoding="utf-8"?><feed xmlns="http://www.w3.org/2005/Atom"><title>${words.repeat(20)}</title></feed>`,
  "/pictures/heron.png": picture(40, 2000),
  "/calls/curlew.wav": Buffer.concat([Buffer.from("RIFF"), Buffer.from([0x24, 0x20, 0, 0]), Buffer.from("WAVEfmt "), Buffer.alloc(8200, 7)]),
  "/favicon.ico": Buffer.concat([Buffer.from([0, 0, 1, 0, 1, 0]), Buffer.alloc(1200, 3)]),
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
};

const TEXT = /\.(?:html|css|js|json|csv|txt|atom)$/;

/** Each file with its bytes, its type, its tag and its codings. */
export const SITE = new Map(
  Object.entries(FILES).map(([path, content]) => {
    const bytes = Buffer.from(content);
    return [
      path,
      {
        path,
        bytes,
        type: TYPES[path.slice(path.lastIndexOf(".") + 1)],
        tag: createHash("sha256").update(bytes).digest("hex").slice(0, 16),
        isText: TEXT.test(path),
        coded: { br: brotliCompressSync(bytes), gzip: gzipSync(bytes) },
      },
    ];
  }),
);

export const MODIFIED = new Date("2026-10-01T08:00:00Z").toUTCString();
