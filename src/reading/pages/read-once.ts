import { charsetOf } from "../../core/fields/content-type.js";
import { isXml } from "../../core/rules/protect.js";
import { inSlices } from "../slices.js";
import { decodeText } from "../text.js";
import type { Page } from "./element.js";
import { readPage } from "./page.js";

/** A page that was read, with what is known of its text. */
export interface KnownPage {
  readonly page: Page;
  readonly isUnsure: boolean;
}

const known = new WeakMap<
  Uint8Array,
  { readonly contentType: string; readonly reading: Promise<KnownPage> }
>();

/**
 * The page in some bytes, read as browsers read a file of this type: once for these bytes, whoever asks for it, and for as long as somebody
 * has them. They must not change.
 */
export function readOnce(bytes: Uint8Array, contentType: string): Promise<KnownPage> {
  const before = known.get(bytes);
  if (before?.contentType === contentType) return before.reading;
  const reading = read(bytes, contentType);
  known.set(bytes, { contentType, reading });
  return reading;
}

async function read(bytes: Uint8Array, contentType: string): Promise<KnownPage> {
  const { text, isUnsure } = decodeText(bytes, charsetOf(contentType));
  return { page: await inSlices(readPage(text, isXml(contentType))), isUnsure };
}
