// A small right site of the observatory, which each planted problem is put into.
import { crc32, deflateSync } from "node:zlib";

export const page = (body) =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Larkholm</title><link rel="stylesheet" href="/style.css"></head><body>${body}</body></html>`;

/** A picture that is whole: PNG, so many pixels wide, with at least so many bytes. */
export function picture(width = 2, bytes = 0) {
  const header = Buffer.alloc(13);
  header.writeUInt32BE(width, 0);
  header.writeUInt32BE(1, 4);
  header.set([8, 0, 0, 0, 0], 8);
  const chunks = [
    ["IHDR", header],
    ...(bytes > 0 ? [["tEXt", Buffer.alloc(bytes, "x")]] : []),
    ["IDAT", deflateSync(Buffer.alloc(width + 1))],
    ["IEND", Buffer.alloc(0)],
  ];
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    ...chunks.map(([type, data]) => {
      const body = Buffer.concat([Buffer.from(type), data]);
      const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
      length.writeUInt32BE(data.length);
      // Node 20 has crc32 from 20.15 on.
      sum.writeUInt32BE(crc32(body));
      return Buffer.concat([length, body, sum]);
    }),
  ]);
}

export const GOOD = {
  "index.html": page(
    '<a href="/guide/">Guide</a><img src="/pictures/heron.png" width="2" alt="A heron"><script src="/scripts/site.js"></script>',
  ),
  "404.html": page("There is nothing here."),
  "style.css": "body{background:url(pictures/heron.png)}",
  "scripts/site.js": "document.title += ' 2026';",
  "pictures/heron.png": picture(),
  "guide/index.html": page(
    '<a href="../">Up</a> <a href="#top">Top</a> <a href="mailto:ringing@larkholm.example">Write</a>',
  ),
  "robots.txt": "User-agent: *\n",
};
