import type { BodyPart, ResponsePlan } from "../../core/answer/plan.js";
import type { BodyView } from "../shapes.js";

/** How much of a text, a picture and other bytes is shown, in bytes. */
const TEXT_BYTES = 64 * 1024;
const PICTURE_BYTES = 4 * 1024 * 1024;
const BYTES = 512;

/** The body of an answer as it can be looked at: text as text, pictures as pictures, the rest as bytes. Nothing of it is run. */
export async function viewBody(plan: ResponsePlan): Promise<BodyView> {
  const { body, fields } = plan;
  if (body.kind === "none")
    return { kind: "none", why: plan.status === 304 ? "the client has it" : "there is none" };
  const type = (fields.get("content-type") ?? "").toLowerCase();
  const sizeBytes =
    body.kind === "bytes" ? body.bytes.length : body.parts.reduce((sum, part) => sum + part.length, 0);
  const isPicture =
    /^image\/(?:png|jpeg|gif|webp|avif|svg\+xml|x-icon|bmp)\b/.test(type) && plan.status === 200;
  if (isPicture && sizeBytes <= PICTURE_BYTES) {
    const bytes = await readStart(plan, PICTURE_BYTES);
    return { kind: "picture", url: `data:${type.split(";")[0]};base64,${toBase64(bytes)}`, sizeBytes };
  }
  const isText =
    /^(?:text\/|application\/(?:json|xml|javascript|manifest\+json|[\w.+-]+\+(?:json|xml)))/.test(type);
  const bytes = await readStart(plan, isText ? TEXT_BYTES : BYTES);
  if (!isText) return { kind: "bytes", rows: dump(bytes), sizeBytes };
  return { kind: "text", text: decode(bytes, type), sizeBytes, isCut: sizeBytes > bytes.length };
}

async function readStart({ body }: ResponsePlan, atMost: number): Promise<Uint8Array> {
  if (body.kind === "none") return new Uint8Array(0);
  if (body.kind === "bytes") return body.bytes.subarray(0, atMost);
  const pieces: Uint8Array[] = [];
  let left = atMost;
  for (const part of body.parts) {
    if (left === 0) break;
    const piece = await readPart(part, left, body.file);
    pieces.push(piece);
    left -= piece.length;
  }
  const whole = new Uint8Array(pieces.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const piece of pieces) {
    whole.set(piece, at);
    at += piece.length;
  }
  return whole;
}

async function readPart(
  part: BodyPart,
  atMost: number,
  file: { read(offset: number, length: number): Promise<Uint8Array> },
): Promise<Uint8Array> {
  if (part instanceof Uint8Array) return part.subarray(0, atMost);
  return file.read(part.offset, Math.min(part.length, atMost));
}

function decode(bytes: Uint8Array, type: string): string {
  const charset = /charset="?([\w.:-]+)/.exec(type)?.[1] ?? "utf-8";
  try {
    return new TextDecoder(charset).decode(bytes);
  } catch {
    return new TextDecoder().decode(bytes);
  }
}

function toBase64(bytes: Uint8Array): string {
  let binary = "";
  for (let at = 0; at < bytes.length; at += 8192)
    binary += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return btoa(binary);
}

/** Rows of sixteen: where they begin, in hexadecimal digits, and the letters among them. */
function dump(bytes: Uint8Array): string[] {
  const rows: string[] = [];
  for (let at = 0; at < bytes.length; at += 16) {
    const row = [...bytes.subarray(at, at + 16)];
    const digits = row.map((byte) => byte.toString(16).padStart(2, "0")).join(" ");
    const letters = row
      .map((byte) => (byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : "·"))
      .join("");
    rows.push(`${at.toString(16).padStart(4, "0")}  ${digits.padEnd(47)}  ${letters}`);
  }
  return rows;
}
