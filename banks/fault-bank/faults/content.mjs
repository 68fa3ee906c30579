import { gzipSync } from "node:zlib";
import { field, files } from "./plant.mjs";

const latin = (text) => Buffer.from(text, "latin1");
const page = (title, text) =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${title}</title></head><body><p>${text}</p></body></html>`;
/** As a program copies a text to another system. */
const asText = (bytes) => Buffer.from(bytes.toString("latin1").replaceAll("\n", "\r\n"), "latin1");
const cut = (bytes) => bytes.subarray(0, Math.floor(bytes.length * 0.6));
const replace = (from, to) => (bytes) => Buffer.from(bytes.toString().replace(from, to));

export const CONTENT = [
  [
    "a page in another charset",
    /UTF-8|charset/,
    files({ "/guide/heron.html": latin(page("Heron", "Blåmeis og gråhegre")) }),
  ],
  [
    "a text in another charset",
    /UTF-8|charset/,
    files({ "/notes.txt": latin("Blåmeis og gråhegre ".repeat(20)) }),
  ],
  [
    "letters that were coded twice",
    /twice|letters|UTF-8|mojibake/,
    files({
      "/guide/heron.html": page("Heron", Buffer.from("Blåmeis og gråhegre", "utf8").toString("latin1")),
    }),
  ],
  [
    "letters that were lost",
    /letters|lost|U\+FFFD|replacement/,
    files({ "/guide/heron.html": page("Heron", "Bl\uFFFDmeis og gr\uFFFDhegre") }),
  ],
  [
    "a mark before JSON",
    /mark|JSON/,
    files({ "/records/season.json": (bytes) => Buffer.concat([Buffer.from([0xef, 0xbb, 0xbf]), bytes]) }),
  ],
  [
    "a mark before a module",
    /mark/,
    files({ "/larkholm.webmanifest": (bytes) => Buffer.concat([Buffer.from([0xef, 0xbb, 0xbf]), bytes]) }),
  ],
  ["a picture that was copied as a text", /line ends|text/, files({ "/pictures/heron.png": asText })],
  [
    "a font that was copied as a text",
    /line ends|length|byte/,
    files({
      "/fonts/larkholm-3c9d1e22.woff2": (bytes) =>
        asText(Buffer.concat([bytes, Buffer.from("\n".repeat(20))])),
    }),
  ],
  [
    "a page of last week's build",
    /build|older/,
    files({
      "/guide/heron.html": (bytes) => Buffer.from(bytes.toString().replace("app-9c1be07d", "app-4f7720aa")),
      "/scripts/app-4f7720aa.js": "export const week = 47;\n",
    }),
  ],
  ["a cut picture", /cut|end/, files({ "/pictures/heron.png": cut })],
  ["a cut archive", /cut|end/, files({ "/records/archive.zip": cut })],
  ["a cut sound", /cut|end|short/, files({ "/calls/curlew.wav": cut })],
  ["a cut font", /cut|end|short|length/, files({ "/fonts/larkholm-3c9d1e22.woff2": cut })],
  ["cut JSON", /JSON/, files({ "/records/season.json": cut })],
  [
    "a page that is cut",
    /cut|end|tag/,
    files({ "/guide/heron.html": (bytes) => bytes.subarray(0, bytes.indexOf('="./"') + 3) }),
  ],
  ["an empty style sheet", /empty/, files({ "/styles/site-5f3a91bc.css": "" })],
  ["an empty picture", /empty/, files({ "/pictures/heron.png": "" })],
  ["an empty page", /empty/, files({ "/guide/heron.html": "" })],
  ["an empty script", /empty/, files({ "/scripts/app-9c1be07d.js": "" })],
  [
    "the bytes of another picture",
    /different|another/,
    files({ "/pictures/icon.png": answerOf("/pictures/heron.png") }),
  ],
  [
    "the bytes of another page",
    /Heron.*, there .*Guide/,
    files({ "/guide/heron.html": answerOf("/guide/index.html") }),
  ],
  [
    "the bytes of a script as a style sheet",
    /script|style|same|other|another/,
    files({ "/styles/site-5f3a91bc.css": answerOf("/scripts/app-9c1be07d.js") }),
  ],
  [
    "bytes behind the end of a picture",
    /behind|after|end/,
    files({
      "/pictures/heron.png": (bytes) => Buffer.concat([bytes, Buffer.from("<!-- 12 ms -->\n".repeat(3))]),
    }),
  ],
  [
    "words behind the end of JSON",
    /JSON/,
    files({
      "/records/season.json": (bytes) => Buffer.concat([bytes, Buffer.from("\nWarning: the disk is full")]),
    }),
  ],
  [
    "a warning before a page",
    /before|begin|start/,
    files({
      "/guide/heron.html": (bytes) =>
        Buffer.concat([Buffer.from("Warning: the disk is full in line 12\n"), bytes]),
    }),
  ],
  [
    "words behind the end of a page",
    /behind|after|end/,
    files({
      "/guide/heron.html": (bytes) =>
        Buffer.concat([bytes, Buffer.from("Warning: the disk is full in line 12")]),
    }),
  ],
  [
    "a text that is coded already",
    /coded|gzip|compress/,
    files({ "/records/season.csv": (bytes) => gzipSync(bytes) }),
  ],
  [
    "a page in place of a script",
    /script|HTML|page/,
    files({ "/scripts/app-9c1be07d.js": page("Larkholm", "Nothing here.") }),
  ],
  [
    "a page in place of JSON",
    /JSON|HTML|page/,
    files({ "/records/season.json": page("Larkholm", "Nothing here.") }),
  ],
  ["a feed that is cut", /XML|cut|feed/, files({ "/feed.atom": cut })],
  [
    "a pointer in place of a file",
    /pointer|bytes|type|picture/,
    files({
      "/pictures/heron.png": "version https://storage.invalid/spec/v1\noid sha256:4f1d\nsize 12345\n",
    }),
  ],
  [
    "marks of a merge",
    /merge|conflict/,
    files({ "/styles/site-5f3a91bc.css": replace("body {", "\n<<<<<<< HEAD\nbody {") }),
  ],
  [
    "a template that was not filled in",
    /template|filled|placeholder/,
    files({ "/guide/heron.html": page("{{ title }}", "{{ text }}") }),
  ],
];

function answerOf(path) {
  return (_, site) => site.get(path).bytes;
}

export const TYPES = [
  ["a style sheet as a text", /type/i, field(/\.css$/, "Content-Type", "text/plain; charset=utf-8")],
  ["a script as a page", /type|HTML/i, field(/\.js$/, "Content-Type", "text/html; charset=utf-8")],
  ["a font as bytes", /type/i, field(/\.woff2$/, "Content-Type", "application/octet-stream")],
  ["JSON as a page", /type/i, field(/\.json$/, "Content-Type", "text/html; charset=utf-8")],
  ["a page as bytes", /type/i, field(/\.html$/, "Content-Type", "application/octet-stream")],
  ["a picture as another kind", /type/i, field(/\.png$/, "Content-Type", "image/jpeg")],
  ["no type at all", /type/i, field(/\.csv$/, "Content-Type", undefined)],
  ["a type that is none", /type/i, field(/\.csv$/, "Content-Type", "csv")],
  ["a manifest as a text", /type/i, field(/\.webmanifest$/, "Content-Type", "text/plain")],
  ["a sound as bytes", /type/i, field(/\.wav$/, "Content-Type", "application/octet-stream")],
  [
    "a charset that does not exist",
    /charset/,
    field(/^\/guide\/$/, "Content-Type", "text/html; charset=utf8mb4"),
  ],
  [
    "another charset than it is in",
    /charset/,
    files({ "/guide/heron.html": page("Heron", "Blåmeis og gråhegre") }),
    "iso",
  ],
  ["a feed as a page", /type/i, field(/\.atom$/, "Content-Type", "text/html")],
  ["an archive as a text", /type/i, field(/\.zip$/, "Content-Type", "text/plain; charset=utf-8")],
].map(([what, words, fault, more]) => [
  what,
  words,
  more === "iso"
    ? { ...fault, ...field(/heron\.html$/, "Content-Type", "text/html; charset=iso-8859-1") }
    : fault,
]);
