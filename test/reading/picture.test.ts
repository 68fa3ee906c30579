import fc from "fast-check";
import { expect, test } from "vitest";
import { type Picture, readPicture } from "../../src/reading/contents/picture.js";

const u16 = (n: number): number[] => [n >> 8, n & 255];
const u32 = (n: number): number[] => [...u16(Math.floor(n / 65_536)), ...u16(n & 65_535)];
const text = (word: string): number[] => [...word].map((letter) => letter.charCodeAt(0));
const little = (n: number, bytes: number): number[] =>
  Array.from({ length: bytes }, (_, i) => Math.floor(n / 256 ** i) & 255);
const box = (type: string, ...content: number[][]): number[] => [
  ...u32(8 + content.flat().length),
  ...text(type),
  ...content.flat(),
];
const webp = (chunk: string, ...content: number[][]): number[] => {
  const body = [
    ...text("WEBP"),
    ...text(chunk),
    ...little(content.flat().length, 4),
    ...content.flat(),
    ...Array(30).fill(0),
  ];
  return [...text("RIFF"), ...little(body.length, 4), ...body];
};
const track = (width: number, height: number): number[] =>
  box("trak", box("tkhd", Array(76).fill(0), u32(width * 65_536), u32(height * 65_536)));
const FRAME = [0xff, 0xc2, ...u16(17), 8, ...u16(30), ...u16(40), ...Array(20).fill(0)];

test.each<[string, number[], Picture | undefined]>([
  [
    "PNG",
    [0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, ...u32(13), ...text("IHDR"), ...u32(70_000), ...u32(3)],
    { width: 70_000, height: 3 },
  ],
  [
    "a PNG that ends before its size",
    [0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, ...u32(13), ...text("IHDR"), ...u32(7)],
    undefined,
  ],
  ["GIF", [...text("GIF89a"), ...little(500, 2), ...little(300, 2)], { width: 500, height: 300 }],
  ["a GIF that ends before its size", [...text("GIF89a"), 1, 0, 1], undefined],
  [
    "JPEG, behind another segment",
    [0xff, 0xd8, 0xff, 0xe0, ...u16(4), 0, 0, ...FRAME],
    { width: 40, height: 30 },
  ],
  [
    "JPEG, behind a table that is no frame",
    [0xff, 0xd8, 0xff, 0xc4, ...u16(3), 0, ...FRAME],
    { width: 40, height: 30 },
  ],
  ["a JPEG whose segments go wrong", [0xff, 0xd8, 0xff, 0xe0, ...u16(4), 0, 0, 7, ...FRAME], undefined],
  [
    "WebP, RFC 9649 §2.5",
    webp("VP8 ", [0, 0, 0, 0x9d, 1, 0x2a], little(0x4000 + 640, 2), little(480, 2)),
    { width: 640, height: 480 },
  ],
  ["WebP, §2.6", webp("VP8L", [0x2f], little(799 + 599 * 16_384, 4)), { width: 800, height: 600 }],
  [
    "WebP, §2.7",
    webp("VP8X", Array(4).fill(0), little(69_999, 3), little(79_999, 3)),
    { width: 70_000, height: 80_000 },
  ],
  ["WebP, of a form to come", webp("VP9 ", [0]), undefined],
  [
    "a film: its widest track",
    [
      ...box("ftyp", text("isom")),
      ...box("free", [1, 2, 3]),
      ...box("moov", track(0, 0), track(640, 360), track(320, 180)),
    ],
    { width: 640, height: 360 },
  ],
  ["a film without a picture", [...box("ftyp", text("M4A ")), ...box("moov", track(0, 0))], undefined],
  ["boxes that are no film", box("moov", track(640, 360)), undefined],
  ["a text", text("Larkholm Bird Observatory, the field guide"), undefined],
])("%s", (_title, bytes, expected) => {
  expect(readPicture(new Uint8Array(bytes))).toEqual(expected);
  // What is cut off says nothing, or the same.
  for (let length = 0; length < bytes.length; length += 3)
    expect([undefined, ...(expected ? [expected.width] : []), 0, 320, 640]).toContain(
      readPicture(new Uint8Array(bytes.slice(0, length)))?.width,
    );
});

test("no bytes make it throw: boxes inside boxes, or any others", () => {
  const deep = 20_000;
  const nested = Array.from({ length: deep }, (_, i) => [...u32(8 * (deep - i)), ...text("moov")]).flat();
  expect(readPicture(new Uint8Array([...box("ftyp", text("isom")), ...nested]))).toBeUndefined();
  const start = fc.constantFrom(
    text("RIFF0000WEBPVP8X"),
    [0xff, 0xd8],
    text("GIF8"),
    [0x89, 0x50, 0x4e, 0x47],
    box("ftyp", text("isom")),
  );
  fc.assert(
    fc.property(
      start,
      fc.uint8Array({ maxLength: 200 }),
      (head, rest) => void readPicture(new Uint8Array([...head, ...rest])),
    ),
  );
});
