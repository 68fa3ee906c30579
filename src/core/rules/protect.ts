import type { Fields } from "../fields/fields.js";

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
  /** Works out the fields of one document from its bytes and its Content-Type, the policy among them. */
  readonly describe: (bytes: Uint8Array, contentType: string) => Promise<Protection>;
  /** The value of Strict-Transport-Security (RFC 6797), for answers over TLS; undefined for none. */
  readonly transport: Fields | undefined;
  /** In words. */
  readonly summary: string;
}

/** A longer document is not read for its policy, in bytes. */
export const PROTECTED_UP_TO = 4 * 1024 * 1024;

/** True for a document that runs scripts when it is opened. */
export function isProtected(contentType: string): boolean {
  return /^(?:text\/html|application\/xhtml\+xml|image\/svg\+xml)(?:;|$)/.test(contentType);
}
