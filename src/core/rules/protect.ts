import type { Fields } from "../fields/fields.js";
import type { OpenedFile } from "../source.js";

/** The directives that list sources (Content Security Policy Level 3 §6), in the order in which a policy is written. */
export const DIRECTIVES = [
  "default-src",
  "script-src",
  "style-src",
  "img-src",
  "font-src",
  "media-src",
  "connect-src",
  "frame-src",
  "worker-src",
  "manifest-src",
  "object-src",
  "base-uri",
  "form-action",
  "frame-ancestors",
] as const;
export type Directive = (typeof DIRECTIVES)[number];

/** What a page needs its policy to allow besides the site's own files. */
export interface PageNeeds {
  /** Source expressions by directive: digests of what is in the page itself, and addresses that the page names. */
  readonly sources: ReadonlyMap<Directive, readonly string[]>;
  /** What no policy can allow without allowing anything, each a sentence without a full stop. */
  readonly problems: readonly string[];
}

/** The protective fields of one document, and what they do not cover: each a sentence without a full stop. */
export interface Protection {
  readonly fields: Fields;
  readonly problems: readonly string[];
}

/** The protective fields of documents. */
export interface ProtectRules {
  /** Fields that are the same for each document. */
  readonly fixed: Fields;
  /** The protective fields of a file: of a document by what is in it, of a script under isolation, of others none. */
  readonly describe: (file: OpenedFile, contentType: string) => Promise<Protection>;
  /** The same of a document whose bytes are at hand, all of them. */
  readonly read: (bytes: Uint8Array, contentType: string) => Promise<Protection>;
  /** The value of Strict-Transport-Security (RFC 6797), for answers over TLS; undefined for none. */
  readonly transport: Fields | undefined;
  /** In words. */
  readonly summary: string;
}

/** True for a document that runs scripts when it is opened: a page, or XML, which may have elements of a page in it. */
export function isProtected(contentType: string): boolean {
  return /^text\/html(?:;|$)/.test(contentType) || isXml(contentType);
}

/** MIME Sniffing Standard §4.6: an XML type. */
export function isXml(contentType: string): boolean {
  return /^(?:(?:text|application)\/xml|[^;/]+\/[^;]+\+xml)(?:;|$)/.test(contentType);
}
