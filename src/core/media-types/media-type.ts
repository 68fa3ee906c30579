import { MEDIA_TYPES } from "./table.js";

/**
 * The media type a file name stands for, without parameters. Case does not matter. The longest extension that is known
 * wins: `tar.gz` before `gz`; undefined when the name says nothing. `added` goes before the table; its keys are extensions in lower case without their dot.
 */
export function decideMediaType(name: string, added: ReadonlyMap<string, string>): string | undefined {
  return lookUp(name, added) ?? lookUp(name, MEDIA_TYPES);
}

function lookUp(name: string, types: ReadonlyMap<string, string>): string | undefined {
  if (types.size === 0) return undefined;
  const base = name.slice(name.lastIndexOf("/") + 1).toLowerCase();
  // A leading dot begins a hidden name, not an extension.
  for (let dot = base.indexOf(".", 1); dot > 0; dot = base.indexOf(".", dot + 1)) {
    const type = types.get(base.slice(dot + 1));
    if (type !== undefined) return type;
  }
  return undefined;
}

// WebVTT is always UTF-8 and registers no parameter (WebVTT §10).
const TEXT_WITHOUT_CHARSET = new Set(["text/vtt"]);

/**
 * The Content-Type field: text types name the charset; JSON (RFC 8259 §11) has no such parameter, and XML says it
 * itself. A type that already has parameters stays as it is.
 */
export function formatContentType(mediaType: string, charset: string): string {
  if (charset === "" || !mediaType.startsWith("text/") || mediaType.includes(";")) return mediaType;
  return TEXT_WITHOUT_CHARSET.has(mediaType) ? mediaType : `${mediaType}; charset=${charset}`;
}

const TEXT_LIKE =
  /^(?:text\/|image\/(?:svg\+xml|bmp|x-icon|vnd\.microsoft\.icon)$|font\/(?:ttf|otf|collection)$|model\/(?:obj|mtl|gltf\+json|step|iges|vrml|stl)$)/;
const TEXT_APPLICATIONS =
  /^application\/(?:json|xml|wasm|yaml|toml|sql|rtf|postscript|x-subrip|jsonl|json5|graphql|vnd\.ms-fontobject|vnd\.apple\.mpegurl|xml-dtd|n-triples|n-quads|trig|.+\+(?:json|xml))$/;

/** True for a type whose bytes become markedly fewer when they are compressed. */
export function isCompressible(mediaType: string): boolean {
  const type = mediaType.split(";")[0]!.trim();
  return TEXT_LIKE.test(type) || TEXT_APPLICATIONS.test(type);
}
