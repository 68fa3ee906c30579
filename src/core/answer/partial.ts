import { Fields } from "../fields/fields.js";
import type { Representation } from "../represent/known-files.js";
import { encodeUtf8 } from "../text/utf8.js";
import type { BodyPart } from "./plan.js";
import type { ByteRange } from "./range.js";

/** Fields and parts of a 206 (RFC 9110 §15.3.7): one range, or several as multipart/byteranges (§14.6). */
export function planPartial(
  representation: Representation,
  ranges: readonly ByteRange[],
  slice: (offset: number, length: number) => BodyPart,
): { fields: Fields; parts: readonly BodyPart[] } {
  const { contentType, sizeBytes, type, restFields } = representation;
  const [only] = ranges;
  if (ranges.length === 1) {
    const length = lengthOf(only!);
    const head = Fields.of(
      ["Content-Length", String(length), "the length of the part"],
      ["Content-Range", formatContentRange(only!, sizeBytes), "the range that Range asks for"],
    );
    return { fields: type.concat(head, restFields), parts: [slice(only!.first, length)] };
  }
  const boundary = makeBoundary(representation);
  const parts = ranges.flatMap((range) => {
    const lines = [
      // RFC 2046 §5.1.1: before the first one it ends an empty preamble, which programs that fetch what changed wait for.
      `\r\n--${boundary}`,
      `Content-Type: ${contentType}`,
      `Content-Range: ${formatContentRange(range, sizeBytes)}`,
    ];
    return [encodeUtf8(`${lines.join("\r\n")}\r\n\r\n`), slice(range.first, lengthOf(range))];
  });
  parts.push(encodeUtf8(`\r\n--${boundary}--\r\n`));
  const length = parts.reduce((sum, part) => sum + part.length, 0);
  const head = Fields.of(
    ["Content-Type", `multipart/byteranges; boundary=${boundary}`, "Range asks for several ranges"],
    ["Content-Length", String(length), "its length, separators included"],
  );
  return { fields: head.concat(restFields), parts };
}

const lengthOf = ({ first, last }: ByteRange): number => last - first + 1;

function formatContentRange({ first, last }: ByteRange, size: number): string {
  return `bytes ${first}-${last}/${size}`;
}

// RFC 2046 §5.1.1: at most 70 characters, which a digest of 43 and a coding leave room for, and none that would need quotes.
// The tag makes it this representation's own.
function makeBoundary({ tag }: Representation): string {
  return `epistyle-part-${tag.opaque.replace(/[^A-Za-z0-9]/g, "")}-end`;
}
