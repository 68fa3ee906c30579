import { mediaTypeOf } from "../fields/content-type.js";
import type { Origin } from "../text/origin.js";
import { MEDIA_TYPES, UNKNOWN_TYPE } from "./table.js";

/** A media type of the configuration, and where it is said. */
export interface AddedType {
  readonly type: string;
  readonly said: Origin;
}

/** A media type that a file name stands for, and the extension that decided. */
export interface TypeByName {
  readonly type: string;
  /** In lower case, without its dot. */
  readonly extension: string;
  /** Where the configuration says so; undefined for the built-in table. */
  readonly said: Origin | undefined;
}

/**
 * The media type a file name stands for, without parameters. Case does not matter. The longest extension that is known
 * wins: `tar.gz` before `gz`; undefined when the name says nothing. `added` goes before the table; its keys are extensions in
 * lower case without their dot.
 */
export function decideMediaType(name: string, added: ReadonlyMap<string, AddedType>): TypeByName | undefined {
  const base = name.slice(name.lastIndexOf("/") + 1).toLowerCase();
  const own = findExtension(base, added);
  if (own !== undefined) return { ...added.get(own)!, extension: own };
  const extension = findExtension(base, MEDIA_TYPES);
  return extension === undefined
    ? undefined
    : { type: MEDIA_TYPES.get(extension)!, extension, said: undefined };
}

/** The media type by a file's name alone, for lists of names; what the name does not say is octets. */
export function mediaTypeByName(name: string, added: ReadonlyMap<string, AddedType>): string {
  return decideMediaType(name, added)?.type ?? UNKNOWN_TYPE;
}

/** No name is longer, in characters. */
const LONGEST_EXTENSION = 255;

function findExtension(base: string, types: ReadonlyMap<string, unknown>): string | undefined {
  // A leading dot begins a hidden name, not an extension.
  const first = Math.max(1, base.length - LONGEST_EXTENSION);
  for (let dot = base.indexOf(".", first); dot > 0; dot = base.indexOf(".", dot + 1)) {
    const extension = base.slice(dot + 1);
    if (types.has(extension)) return extension;
  }
  return undefined;
}

// WebVTT is always UTF-8 and registers no parameter (WebVTT §10).
const TEXT_WITHOUT_CHARSET = new Set(["text/vtt"]);

/**
 * True for a type whose Content-Type field names a charset: text. JSON (RFC 8259 §11) has no such parameter, and a type that has
 * parameters already stays as it is.
 */
export function takesCharset(mediaType: string): boolean {
  return mediaType.startsWith("text/") && !mediaType.includes(";") && !TEXT_WITHOUT_CHARSET.has(mediaType);
}

/** The Content-Type field: a type that takes a charset names it; `""` names none. */
export function formatContentType(mediaType: string, charset: string): string {
  return charset !== "" && takesCharset(mediaType) ? `${mediaType}; charset=${charset}` : mediaType;
}

const TEXT_LIKE =
  /^(?:text\/|image\/(?:svg\+xml|bmp|x-icon|vnd\.microsoft\.icon)$|font\/(?:ttf|otf|collection)$|model\/(?:obj|mtl|gltf\+json|step|iges|vrml|stl)$)/;
const TEXT_APPLICATIONS =
  /^application\/(?:json|(?:x-)?javascript|ecmascript|xml|wasm|yaml|toml|sql|rtf|postscript|x-subrip|jsonl|json5|graphql|vnd\.ms-fontobject|vnd\.apple\.mpegurl|xml-dtd|n-triples|n-quads|trig|.+\+(?:json|xml))$/;

/** True for a type whose bytes become markedly fewer when they are compressed. */
export function isCompressible(mediaType: string): boolean {
  const type = mediaTypeOf(mediaType);
  return TEXT_LIKE.test(type) || TEXT_APPLICATIONS.test(type);
}
