import { expect, test } from "vitest";
import { findFlaw, wantedTail } from "../../src/reading/contents/formats.js";
import { fits } from "../../src/reading/contents/kinds.js";
import { findXmlMistake } from "../../src/reading/contents/xml.js";
import { findLeak } from "../../src/testing/packs/leaks.js";

// Bytes of formats that say where they end: whole ones, ones that are cut, ones that go on.
const at = (length: number, pieces: Record<number, string | number[]>): Uint8Array => {
  const bytes = new Uint8Array(length);
  for (const [from, piece] of Object.entries(pieces))
    bytes.set(typeof piece === "string" ? Buffer.from(piece, "latin1") : piece, Number(from));
  return bytes;
};
const little = (n: number, bytes = 4): number[] =>
  Array.from({ length: bytes }, (_, i) => Math.floor(n / 256 ** i) & 255);
const big = (n: number): number[] => little(n).reverse();
const END = "IEND\xae\x42\x60\x82";
const MISSING = "it is incomplete: its end is missing";
const short = (length: number, whole: number): string =>
  `it is incomplete: it ends after ${length} of its ${whole} bytes`;
const wave = (size: number, channels = 2, length = 100): Uint8Array =>
  at(length, { 0: "RIFF", 4: little(size), 8: "WAVEfmt ", 22: little(channels, 2) });
const font = (
  name: string,
  size: number,
  { flavour = big(0x0001_0000), tables = 5, zero = 0 } = {},
): Uint8Array => at(100, { 0: name, 4: flavour, 8: big(size), 12: [0, tables, 0, zero] });
const zip = (end: Record<number, string>, version = 20, flags = 0): Uint8Array =>
  at(200, { 0: "PK\x03\x04", 4: [version, 0, 0, 0, 0, flags], ...end });

test.each<[title: string, type: string, bytes: Uint8Array, flaw: string | undefined]>([
  ["a PNG", "image/png", at(100, { 0: "\x89PNG", 12: "IHDR", 92: END }), undefined],
  ["a PNG without its end", "image/png", at(100, { 0: "\x89PNG", 12: "IHDR", 93: END.slice(0, 7) }), MISSING],
  [
    "a PNG that goes on",
    "image/png",
    at(100, { 0: "\x89PNG", 12: "IHDR", 80: END }),
    "12 bytes follow its end",
  ],
  ["a PNG that does not begin like one", "image/png", at(100, { 0: "\x89PNG", 12: "IXDR" }), undefined],
  ["a GIF, with a little behind it", "image/gif", at(200, { 0: "GIF89a", 150: ";" }), undefined],
  ["a GIF with a semicolon far from its end", "image/gif", at(200, { 0: "GIF89a", 130: ";" }), MISSING],
  [
    "a JPEG, with what a camera put behind it",
    "image/jpeg",
    at(200, { 0: "\xff\xd8\xff\xe0", 100: "\xff\xd9" }),
    undefined,
  ],
  ["a JPEG without its end", "image/jpeg", at(200, { 0: "\xff\xd8\xff\xe0", 100: "\xd9\xff" }), MISSING],
  ["what only begins like a JPEG", "image/jpeg", at(200, { 0: "\xff\xd8\xff\x01" }), undefined],
  ["a WebP", "image/webp", at(100, { 0: "RIFF", 4: little(92), 8: "WEBPVP8X" }), undefined],
  [
    "a WebP with a byte of padding",
    "image/webp",
    at(100, { 0: "RIFF", 4: little(91), 8: "WEBPVP8 " }),
    undefined,
  ],
  [
    "a WebP that goes on",
    "image/webp",
    at(100, { 0: "RIFF", 4: little(90), 8: "WEBPVP8L" }),
    "2 bytes follow its end",
  ],
  ["a WebP that is cut", "image/webp", at(100, { 0: "RIFF", 4: little(93), 8: "WEBPVP8L" }), short(100, 101)],
  ["another container", "image/webp", at(100, { 0: "RIFF", 4: little(93), 8: "WEBPXXXX" }), undefined],
  ["a sound", "audio/wav", wave(92), undefined],
  ["a sound of one channel that is cut", "audio/x-wav", wave(93, 1), short(100, 101)],
  ["a sound of 32 channels that is cut", "audio/vnd.wave", wave(93, 32), short(100, 101)],
  ["a sound that goes on", "audio/wave", wave(20), undefined],
  ["a sound without channels", "audio/wav", wave(93, 0), undefined],
  ["a sound of too many channels", "audio/wav", wave(93, 33), undefined],
  ["a sound whose length nobody knew", "audio/wav", wave(0), undefined],
  ["a sound of all lengths", "audio/wav", wave(0xffff_ff00), undefined],
  ["a very long sound", "audio/wav", wave(0xffff_feff), short(100, 0xffff_ff07)],
  ["a font", "font/woff2", font("wOF2", 100), undefined],
  ["a font that is cut", "font/woff2", font("wOF2", 120), short(100, 120)],
  [
    "a font of the older form",
    "application/font-woff",
    font("wOFF", 120, { flavour: [...Buffer.from("OTTO")] }),
    short(100, 120),
  ],
  [
    "a font that goes on",
    "font/woff",
    font("wOFF", 90, { flavour: [...Buffer.from("true")] }),
    "10 bytes follow its end",
  ],
  ["a font of no flavour", "font/woff2", font("wOF2", 120, { flavour: big(7) }), undefined],
  ["a font without tables", "font/woff2", font("wOF2", 120, { tables: 0 }), undefined],
  ["a font with something where nothing is", "font/woff2", font("wOF2", 120, { zero: 1 }), undefined],
  ["an archive", "application/zip", zip({ 170: "PK\x05\x06" }), undefined],
  ["an archive without its end", "application/epub+zip", zip({ 170: "PK\x05\x05" }), MISSING],
  ["an archive of a version to come", "application/zip", zip({}, 64), undefined],
  ["an archive of the last version", "application/zip", zip({}, 63), MISSING],
  ["what only begins like an archive", "application/zip", zip({}, 20, 1), undefined],
  ["a document in an archive", "application/vnd.oasis.opendocument.text", zip({}), MISSING],
  ["a PDF", "application/pdf", at(6000, { 0: "%PDF-1.7", 50: "1 0 obj", 5990: "%%EOF" }), undefined],
  [
    "a PDF whose end is far from it",
    "application/pdf",
    at(6000, { 0: "%PDF-1.7", 50: "1 0 obj", 3000: "%%EOF" }),
    MISSING,
  ],
  [
    "a PDF whose first object is far",
    "application/pdf",
    at(6000, { 0: "%PDF-1.7", 5000: "1 0 obj" }),
    undefined,
  ],
  ["the beginning of a PNG alone", "image/png", at(40, { 0: "\x89PNG", 12: "IHDR" }), MISSING],
  ["less of a text than any such file has", "image/png", Buffer.from("a few words"), undefined],
  [
    "a text in its place",
    "image/png",
    Buffer.from(`version 1 of a pointer\nto a picture${" ".repeat(40)}`),
    'a text instead of a PNG picture: "version 1 of a pointer"',
  ],
  ["a word without blanks", "font/woff2", Buffer.from("x".repeat(80)), undefined],
  ["bytes of another kind", "image/gif", at(100, { 0: "other bytes" }), undefined],
  ["a format that does not say", "image/avif", at(100, {}), undefined],
  ["no type", "", at(100, {}), undefined],
])("%s", (_title, type, bytes, flaw) => {
  expect(findFlaw(type, { head: bytes, tail: bytes, sizeBytes: bytes.length })?.text).toBe(flaw);
  // Whoever reads only the start and the end finds the same.
  const sizeBytes = bytes.length;
  const tail = bytes.subarray(Math.max(0, sizeBytes - wantedTail(type)));
  expect(findFlaw(type, { head: bytes.subarray(0, 4096), tail, sizeBytes })?.text).toBe(flaw);
});

test.each<[text: string, mistake: RegExp | undefined]>([
  [
    '<?xml version="1.0"?>\n<rss version="2.0"><channel><title>Larkholm &amp; others</title></channel></rss>\n<!-- end -->\n',
    undefined,
  ],
  ["<feed><entry/>", /^unclosed tag: feed/],
  ["<feed><entry></feed>", /^unexpected close tag|^unmatched/],
  ["<a/><b/>", /./],
  ["<a>&nbsp;</a>", /entity/],
  ['<!DOCTYPE svg [<!ENTITY ns "x">]><svg xmlns="http://www.w3.org/2000/svg">&ns;</svg>', undefined],
  ["<a><b:c/></a>", /prefix/],
  ["<a x=1/>", /./],
  ["words", /./],
  [`${"<a>".repeat(300)}`, undefined],
])("the mistake of the XML text %j is %s", (text, mistake) => {
  if (mistake === undefined) expect(findXmlMistake(text)).toBeUndefined();
  else expect(findXmlMistake(text)).toMatch(mistake);
});

// A type with what contents may go by it, and what may not.
test.each<[type: string, fitting: string, others: string]>([
  ["image/png", "image/png application/octet-stream", "image/jpeg text/plain text/html application/pdf"],
  ["image/svg+xml", "text/xml text/html text/plain", "image/png"],
  ["image/vnd.microsoft.icon", "image/x-icon", "image/png image/bmp"],
  ["font/otf", "font/ttf font/collection", "font/woff2 text/plain image/png"],
  ["video/mp4", "video/mp4 audio/mpeg application/ogg", "image/png text/html application/zip"],
  ["audio/mpegurl", "text/plain", "image/gif"],
  ["text/plain", "text/html text/xml text/plain", "image/png application/zip font/ttf video/webm"],
  ["text/javascript", "text/plain application/octet-stream", "application/wasm audio/mpeg"],
  ["application/vnd.oasis.opendocument.text", "application/zip video/mp4 text/plain", "image/jpeg font/woff"],
])("%s may be %s, and not %s", (type, fitting, others) => {
  expect(fitting.split(" ").filter((content) => !fits(type, content))).toEqual([]);
  expect(others.split(" ").filter((content) => fits(type, content))).toEqual([]);
});

test.each<[text: string, told: string | undefined]>([
  ["Error\n    at serve  (/app/a.js:12:9)\n", "the stack of the program:  at serve (/app/a.js:12:9) "],
  ["at file:///app/a.js:1:1", "the stack of the program: at file:///app/a.js:1:1"],
  ["Traceback (most recent call last):", "the stack of the program: Traceback (most recent call last)"],
  ["It was made\nat 12:30:45", undefined],
  ["met at dawn /x:1:2", undefined],
  [`at ${"a/".repeat(50)}b.js:1:2`, `the stack of the program: at ${"a/".repeat(38)}…`],
  ["see /srv/www/birds/a.html.", "a path of the machine: /srv/www/birds/a.html."],
  ["/home/heron/www/birds", "a path of the machine: /home/heron/www/birds"],
  ["/Users/heron/www", "a path of the machine: /Users/heron/www"],
  ["/usr/share", undefined],
  ["/home/guide/waders", undefined],
  ["/records/www/birds/a", undefined],
  ["C:\\www\\birds\\a", "a path of the machine: C:\\www\\birds\\"],
  ["C:\\www\\a", undefined],
  ['<a href="/srv/www/birds/a">a</a>', undefined],
])("what %j tells of the machine: %s", (text, told) => {
  expect(findLeak(text)).toBe(told);
});
