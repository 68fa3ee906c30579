import { readFileSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { decideTypeByContent } from "../../src/core/media-types/content.js";
import { decideMediaType, formatContentType, isCompressible } from "../../src/core/media-types/media-type.js";
import { MEDIA_TYPES } from "../../src/core/media-types/table.js";
import { parseTypesText } from "../../src/core/media-types/text-format.js";

test.each(
  `doc.html text/html; charset=utf-8|a.HTM text/html; charset=utf-8|a.xhtml application/xhtml+xml|a.css text/css; charset=utf-8
a.cjs text/javascript; charset=utf-8|a.js.map application/json|a.d.ts text/x-typescript; charset=utf-8|seg.ts video/mp2t
a.importmap application/importmap+json|a.jsonld application/ld+json|a.ndjson application/jsonl|a.yaml application/yaml
a.toml application/toml|a.csv text/csv; charset=utf-8|a.tsv text/tab-separated-values; charset=utf-8|a.xml application/xml
a.xsl application/xslt+xml|a.atom application/atom+xml|a.rss application/rss+xml|a.ics text/calendar; charset=utf-8
a.vcf text/vcard; charset=utf-8|a.ttl text/turtle; charset=utf-8|a.nt application/n-triples
a.avif image/avif|a.jxl image/jxl|a.webp image/webp|a.ico image/vnd.microsoft.icon|a.tif image/tiff|a.heic image/heic
a.otf font/otf|a.ttc font/collection|a.woff font/woff|a.eot application/vnd.ms-fontobject|a.mp3 audio/mpeg|a.opus audio/ogg
a.flac audio/flac|a.m4a audio/mp4|a.weba audio/webm|a.mp4 video/mp4|a.webm video/webm|a.mkv video/matroska|a.mov video/quicktime
a.m3u8 application/vnd.apple.mpegurl|a.mpd application/dash+xml|a.srt application/x-subrip|a.kml application/vnd.google-earth.kml+xml
a.gpx application/gpx+xml|a.gpkg application/geopackage+sqlite3|a.pmtiles application/vnd.pmtiles|a.glb model/gltf-binary
a.stl model/stl|a.usdz model/vnd.usdz+zip|a.docx application/vnd.openxmlformats-officedocument.wordprocessingml.document
a.odt application/vnd.oasis.opendocument.text|a.epub application/epub+zip|a.zip application/zip|a.7z application/x-7z-compressed
x.tar.gz application/gzip|x.tgz application/gzip|a.rar application/vnd.rar|a.apk application/vnd.android.package-archive
a.deb application/vnd.debian.binary-package|a.pem application/pem-certificate-chain|a.p7s application/pkcs7-signature
a.rtf application/rtf|a.md text/markdown; charset=utf-8|a.har application/har+json|a.wasm application/wasm`
    .split(/[|\n]/)
    .map((row) => row.split(/ (.*)/s).slice(0, 2) as [string, string]),
)("%s is sent as %s", (name, expected) => {
  expect(formatContentType(decideMediaType(name, new Map())!.type, "utf-8")).toBe(expected);
});

test("at least 300 extensions; each says a type once, and no type that forbids a charset gets one", () => {
  expect(MEDIA_TYPES.size).toBeGreaterThanOrEqual(300);
  for (const [extension, type] of MEDIA_TYPES) {
    expect(extension).toBe(extension.toLowerCase());
    if (!type.startsWith("text/") || type === "text/vtt") expect(formatContentType(type, "utf-8")).toBe(type);
  }
});

test("the table agrees with Debian's list, but for what is justified here by name", () => {
  const justified: Record<string, string> = {
    rss: "application/rss+xml is what feed readers look for; nobody registered either",
    sxg: "signed exchanges of the Web Packaging drafts; the other is a word processor of 1999",
    otc: "RFC 8081 registers font/collection for it",
    wav: "what browsers and their documentation call it; RFC 2361's audio/vnd.wave is not played everywhere",
    mid: "the common type; audio/sp-midi is a scalable profile for telephones",
    aif: "the MIME Sniffing Standard's name",
    aiff: "the MIME Sniffing Standard's name",
    aifc: "the MIME Sniffing Standard's name",
    ts: "segments of streamed film are what servers have; translation sources are not served",
    mkv: "RFC 9559 registers video/matroska",
    srt: "names the format; text/plain would be shown and not used as subtitles",
    "3mf": "the 3MF Consortium's registered model/3mf",
    tgz: "RFC 6713 registers application/gzip for it",
    exe: "registered with IANA; the other is not",
    dll: "registered with IANA; the other is not",
  };
  const debian = new Map<string, string[]>();
  for (const line of readFileSync("test/fixtures/debian-media-types.txt", "utf8").split("\n")) {
    const [type, ...extensions] = line.replace(/#.*/, "").split(" ").filter(Boolean);
    for (const one of extensions)
      debian.set(one.toLowerCase(), [...(debian.get(one.toLowerCase()) ?? []), type!.toLowerCase()]);
  }
  expect(debian.size).toBeGreaterThan(250);
  const differing = [...MEDIA_TYPES].filter(
    ([ext, type]) => debian.has(ext) && !debian.get(ext)!.includes(type),
  );
  expect(differing.map(([ext]) => ext).sort()).toEqual(Object.keys(justified).sort());
});

const bytes = (text: string): Uint8Array =>
  Uint8Array.from(
    text.replace(/\\x(..)/g, (_, hex) => String.fromCharCode(Number.parseInt(hex, 16))),
    (c) => c.charCodeAt(0),
  );

describe("MIME Sniffing Standard, a name that says nothing", () => {
  test.each([
    ["§7.1 a document type", "<!DOCTYPE html><p>", "text/html"],
    ["§7.1 in any case, after white space", "\\x0a\\x0d <!doctype HTML >", "text/html"],
    ["§7.1 a tag ended by >", "<body>", "text/html"],
    ["§7.1 a tag ended by a blank", "<script src=x>", "text/html"],
    ["§7.1 a comment", "<!--x-->", "text/html"],
    ["§7.1 a tag that goes on is another one", "<paragraph>", "text/plain"],
    ["§7.1 XML", "<?xml version='1.0'?>", "text/xml"],
    ["§7.1 PDF", "%PDF-1.7", "application/pdf"],
    ["§7.1 PostScript", "%!PS-Adobe-3.0", "application/postscript"],
    ["§7.1 UTF-16, big end first", "\\xfe\\xff\\x00a", "text/plain"],
    ["§7.1 UTF-16, little end first", "\\xff\\xfea\\x00", "text/plain"],
    ["§7.1 UTF-8 with its mark", "\\xef\\xbb\\xbfabc", "text/plain"],
    ["§6.1 GIF", "GIF89a.......", "image/gif"],
    ["§6.1 PNG", "\\x89PNG\\x0d\\x0a\\x1a\\x0a", "image/png"],
    ["§6.1 JPEG", "\\xff\\xd8\\xff\\xe0", "image/jpeg"],
    ["§6.1 WebP", "RIFF\\x00\\x00\\x00\\x00WEBPVP8 ", "image/webp"],
    ["§6.1 BMP", "BM\\x00\\x00\\x00\\x00", "image/bmp"],
    ["§6.1 icon", "\\x00\\x00\\x01\\x00", "image/x-icon"],
    ["§6.2 WAVE", "RIFF\\x10\\x00\\x00\\x00WAVEfmt ", "audio/wave"],
    ["§6.2 AVI", "RIFF\\x10\\x00\\x00\\x00AVI LIST", "video/avi"],
    ["§6.2 AIFF", "FORM\\x00\\x00\\x00\\x00AIFF", "audio/aiff"],
    ["§6.2 MP3 with ID3", "ID3\\x03\\x00", "audio/mpeg"],
    ["§6.2 Ogg", "OggS\\x00", "application/ogg"],
    ["§6.2 MIDI", "MThd\\x00\\x00\\x00\\x06", "audio/midi"],
    ["§6.2.1 MP4", "\\x00\\x00\\x00\\x18ftypisom\\x00\\x00\\x02\\x00isommp42", "video/mp4"],
    ["AVIF is no film", "\\x00\\x00\\x00\\x18ftypavif\\x00\\x00\\x00\\x00avifmif1", "image/avif"],
    ["§6.2.2 WebM", "\\x1a\\x45\\xdf\\xa3\\x01\\x42\\x82\\x84webm", "video/webm"],
    ["§6.3 WOFF2", "wOF2\\x00\\x01", "font/woff2"],
    ["§6.3 OpenType", "OTTO\\x00", "font/otf"],
    ["§6.3 TrueType", "\\x00\\x01\\x00\\x00\\x00", "font/ttf"],
    ["§6.4 gzip", "\\x1f\\x8b\\x08\\x00", "application/x-gzip"],
    ["§6.4 ZIP", "PK\\x03\\x04", "application/zip"],
    ["§6.4 RAR", "Rar!\\x1a\\x07\\x00", "application/x-rar-compressed"],
    ["WebAssembly", "\\x00asm\\x01\\x00\\x00\\x00", "application/wasm"],
    ["§3 no binary data byte: text", "just text\\x0a\\x09\\x1b[0m", "text/plain"],
    ["§3 a binary data byte", "text\\x00", "application/octet-stream"],
    ["AVIF sequences", "\\x00\\x00\\x00\\x18ftypavis\\x00\\x00\\x00\\x00msf1", "image/avif"],
    ["HEIC", "\\x00\\x00\\x00\\x18ftypheic\\x00\\x00\\x00\\x00mif1heic", "image/heic"],
    ["a brand among the others", "\\x00\\x00\\x00\\x18ftypxxxx\\x00\\x00\\x00\\x00isomhevx", "image/heic"],
    [
      "a brand behind the box is none",
      "\\x00\\x00\\x00\\x10ftypxxxx\\x00\\x00\\x00\\x00mp42",
      "application/octet-stream",
    ],
    ["the version is no brand", "\\x00\\x00\\x00\\x10ftypxxxxmp42", "application/octet-stream"],
    ["a box cut short", "\\x00\\x00\\x00\\x18ftypmp4", "application/octet-stream"],
    ["ftyp in another place", "\\x00\\x00\\x00\\x00\\x18ftypmp42", "application/octet-stream"],
    ["Matroska", "\\x1a\\x45\\xdf\\xa3\\x01\\x42\\x82\\x88matroska", "video/matroska"],
    ["another document type", "\\x1a\\x45\\xdf\\xa3\\x01\\x42\\x82\\x84feather", "application/octet-stream"],
    ["§7.1 a comment after white space, without a blank", "\\x09<!--x", "text/html"],
    ["§7.1 text before a comment", "x<!-- x", "text/plain"],
    ["§7.1 XML in capitals is none", "<?XML ?>", "text/plain"],
    ["§7.1 XML after white space", " <?xml ?>", "text/xml"],
    ["a BOM's first byte alone is text", "\\xfe", "text/plain"],
    ["a signature cut short", "\\x89PN\\x02", "application/octet-stream"],
    ["nothing", "", "text/plain"],
  ])("%s", (_sentence, start, expected) => {
    expect(decideTypeByContent(bytes(start))).toBe(expected);
  });

  test("any bytes are judged without throwing", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 64 }), (some) => {
        expect(decideTypeByContent(some)).toMatch(/^\w+\/[\w.+-]+$/);
      }),
    );
  });
});

test("types that compress well, and types that do not", () => {
  const well = [
    "text/html",
    "text/css",
    "text/javascript",
    "application/javascript",
    "application/x-javascript",
    "application/json",
    "application/geo+json",
    "image/svg+xml",
    "application/wasm",
    "font/ttf",
    "application/rss+xml",
    "image/vnd.microsoft.icon",
  ];
  const ill = [
    "image/png",
    "image/jpeg",
    "font/woff2",
    "audio/mpeg",
    "video/mp4",
    "application/zip",
    "application/pdf",
    "application/gzip",
    "application/octet-stream",
    "model/gltf-binary",
  ];
  expect(well.filter((type) => !isCompressible(type))).toEqual([]);
  expect(ill.filter(isCompressible)).toEqual([]);
});

test("any types file is read, and a table that is written is read back", () => {
  fc.assert(fc.property(fc.string({ unit: "binary" }), (text) => void parseTypesText(text)));
  const entry = fc.tuple(fc.stringMatching(/^[a-z]{1,8}$/), fc.stringMatching(/^[a-z]{1,8}\/[a-z]{1,8}$/));
  fc.assert(
    fc.property(fc.uniqueArray(entry, { selector: ([ext]) => ext }), (entries) => {
      const { types, problems } = parseTypesText(entries.map(([ext, type]) => `${type}\t${ext}`).join("\n"));
      expect([Object.fromEntries(types), problems]).toEqual([Object.fromEntries(entries), []]);
    }),
  );
});
