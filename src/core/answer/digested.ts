import { formatSha256, wantsSha256 } from "../fields/digest-fields.js";
import { Fields } from "../fields/fields.js";
import type { Described } from "../represent/known-files.js";
import type { Negotiation, Selected } from "../represent/representation.js";
import { knownDigest, wholeDigest } from "../represent/tag.js";
import { fieldValue } from "../request/request.js";
import type { BodyPart, Draft } from "./plan.js";

/** A larger file is not read for a digest that nobody knows yet, in bytes. */
const REPRESENTATION_UP_TO = 64 * 1024 * 1024;
/** A larger body is not read twice for the digest of what is sent, in bytes. */
const CONTENT_UP_TO = 8 * 1024 * 1024;

/**
 * Adds the digests that a client can hold an answer against (RFC 9530): of the whole representation where it is known or asked for, and of
 * what is sent where that is asked for.
 */
export async function addDigests(
  context: Negotiation,
  selected: Selected,
  chosen: Described,
  draft: Draft,
): Promise<Draft> {
  if (draft.status !== 200 && draft.status !== 206) return draft;
  const { headers } = context.request;
  const { digests } = chosen.rules.origins;
  const field = (name: string, sha256: string, how: string): Fields =>
    Fields.of([name, formatSha256(sha256), `digests: ${digests.words}; ${how}`, digests.place]);
  const isAsked = wantsSha256(fieldValue(headers, "want-repr-digest"));
  const whole = await digestOfWhole(context, selected, chosen, isAsked);
  if (whole !== undefined)
    draft.fields = draft.fields.concat(field("Repr-Digest", whole, "the whole representation"));
  if (!wantsSha256(fieldValue(headers, "want-content-digest"))) return draft;
  const sent =
    draft.status === 200 && whole !== undefined ? { digest: whole } : await digestOfContent(context, draft);
  if (sent === undefined) return draft;
  const fields = draft.fields.concat(field("Content-Digest", sent.digest, "Want-Content-Digest asks for it"));
  return { ...draft, fields, ...(sent.body !== undefined && { body: sent.body }) };
}

async function digestOfWhole(
  { known, compressor, nowSeconds }: Negotiation,
  { representation, content, coding }: Selected,
  { address, rules }: Described,
  isAsked: boolean,
): Promise<string | undefined> {
  if (content.kind === "bytes") {
    if (isAsked && compressor !== undefined) representation.digest ??= compressor.digest(content.bytes);
    return representation.digest;
  }
  const { file } = content;
  const tagged = { address: coding === undefined ? address : `${address} ${coding}`, file, rules };
  const found = knownDigest(known, tagged);
  if (found !== undefined || !isAsked || file.metadata.sizeBytes > REPRESENTATION_UP_TO) return found;
  return wholeDigest(known, tagged, nowSeconds);
}

// A part is read before its head is sent, and sent from memory.
async function digestOfContent(
  { compressor, request }: Negotiation,
  { body }: Draft,
): Promise<{ readonly digest: string; readonly body?: Draft["body"] } | undefined> {
  if (compressor === undefined || request.method === "HEAD" || body.kind === "none") return undefined;
  if (body.kind === "bytes") return { digest: compressor.digest(body.bytes) };
  const length = body.parts.reduce((sum, part) => sum + part.length, 0);
  if (length > CONTENT_UP_TO) return undefined;
  const bytes = new Uint8Array(length);
  let at = 0;
  for (const part of body.parts) {
    const piece = await read(part, body.file);
    // It became shorter: whoever carries the plan out finds that, too, and says so.
    if (piece.length !== part.length) return undefined;
    bytes.set(piece, at);
    at += piece.length;
  }
  return { digest: compressor.digest(bytes), body: { kind: "bytes", bytes } };
}

async function read(
  part: BodyPart,
  file: { read(offset: number, length: number): Promise<Uint8Array> },
): Promise<Uint8Array> {
  return part instanceof Uint8Array ? part : file.read(part.offset, part.length);
}
