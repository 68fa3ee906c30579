import type { Severity } from "../config/exposures.js";

export type { Severity } from "../config/exposures.js";

/** From the worst to the least. */
export const SEVERITIES: readonly Severity[] = ["severe", "warning", "advice"];

/** Something that a survey found, at one address. */
export interface Finding {
  /** What kind of thing it is, such as "private-key": stable, and explained in docs/survey.md. */
  readonly code: string;
  readonly severity: Severity;
  /** The address from the site's root, escaped, as a visitor would ask for it. */
  readonly address: string;
  /** The file, from the mount's folder; "" for the folder itself. */
  readonly file: string;
  /** Why it is worth a look, in one sentence. */
  readonly reason: string;
  /** A line of configuration or a command to copy, or what to do in one sentence. */
  readonly fix: string;
  /** The files that name this address, where it is about what they name. */
  readonly places?: readonly Place[];
}

/** A file that names an address. */
export interface Place {
  readonly address: string;
  /** From the mount's folder. */
  readonly file: string;
}

/** All findings of one kind with the same fix. */
export interface FindingGroup {
  readonly code: string;
  readonly severity: Severity;
  readonly title: string;
  readonly findings: readonly Finding[];
  /** How many places have these problems: each file for each of them. Undefined where that is no more than there are findings. */
  readonly places: number | undefined;
  /** What mends all of them; undefined where each has its own fix. */
  readonly fix: string | undefined;
}

/** The kinds of findings that are not in the table of exposures: how bad each is, and what it is, in a few words. */
export const KINDS: Readonly<Record<string, { readonly severity: Severity; readonly title: string }>> = {
  program: { severity: "severe", title: "Programs that anyone can download" },
  "source-map": { severity: "warning", title: "Source maps with the whole source" },
  "upload-runs-as-page": { severity: "warning", title: "Uploads that would run as pages" },
  "upload-folder-listed": { severity: "warning", title: "Listed folders of uploads" },
  "not-built": { severity: "severe", title: "A project that was not built" },
  "project-root": { severity: "severe", title: "A whole project is served" },
  "old-pages": { severity: "advice", title: "Old pages that nothing leads to" },
  "not-readable": { severity: "warning", title: "Files and folders that the server cannot read" },
  "link-leads-nowhere": { severity: "warning", title: "Symbolic links that lead nowhere" },
  "link-leads-out": { severity: "warning", title: "Symbolic links that lead out of the folder" },
  "folder-without-document": { severity: "advice", title: "Folders that answer with 403" },
  "document-of-another-name": { severity: "warning", title: "Default documents with another name" },
  "policy-does-not-cover": { severity: "warning", title: "Pages that their policy would break" },
  "two-candidates": { severity: "advice", title: "Two files for one address" },
  "broken-reference": { severity: "warning", title: "Broken links" },
  "broken-fragment": { severity: "advice", title: "Links to places that are not in the page" },
  "module-without-address": { severity: "warning", title: "Modules that browsers cannot find" },
  "relative-in-error-page": { severity: "warning", title: "Error pages that break in deep folders" },
  "reference-with-backslash": { severity: "advice", title: "Links with backslashes" },
  "link-to-own-machine": { severity: "advice", title: "Links to the visitor's own machine" },
  "loads-from-own-machine": { severity: "warning", title: "Pages that load from the visitor's own machine" },
  "reference-differs-in-case": { severity: "warning", title: "Links that differ in case" },
  "reference-outside-prefix": { severity: "warning", title: "Links without the prefix" },
  "relative-in-shell": { severity: "warning", title: "Links that break on deep addresses" },
  "insecure-reference": { severity: "advice", title: "Files loaded over http:" },
  "names-collide": { severity: "warning", title: "Names that collide on other systems" },
  "name-not-portable": { severity: "advice", title: "Names that other systems refuse" },
  "name-without-address": { severity: "warning", title: "Names that no address can have" },
  "start-warning": { severity: "warning", title: "Rules without effect" },
  "large-without-coding": { severity: "advice", title: "Large uncompressed texts" },
  "picture-larger-than-shown": { severity: "advice", title: "Pictures far larger than shown" },
  "picture-over-budget": { severity: "advice", title: "Large pictures" },
  "picture-tells-place": { severity: "advice", title: "Pictures that tell where they were taken" },
  "picture-names-owner": { severity: "advice", title: "Pictures that name the camera's owner" },
  "not-looked-at": { severity: "advice", title: "Files that are too long to look into" },
  "fingerprint-not-kept": { severity: "advice", title: "Fingerprinted files without a long lifetime" },
  "kept-without-fingerprint": { severity: "warning", title: "Files with a long lifetime that may change" },
  "document-kept": { severity: "warning", title: "Pages with a long lifetime" },
  "fingerprint-reused": { severity: "warning", title: "Fingerprinted names with other bytes than before" },
  "prebuilt-differs": { severity: "warning", title: "Compressed files that are not what they stand for" },
  "prebuilt-older": { severity: "advice", title: "Compressed files that are out of date" },
  "service-worker-kept": { severity: "warning", title: "Service workers with a lifetime" },
  "uncompressed-media": { severity: "advice", title: "Recordings and pictures without compression" },
  "future-times": { severity: "advice", title: "Files from the future" },
  "fixed-times": { severity: "warning", title: "Times that say nothing" },
  "content-contradicts-name": { severity: "warning", title: "Content that is not what the name says" },
  "type-not-known": { severity: "advice", title: "Names without a media type" },
  "charset-differs": { severity: "warning", title: "Texts in another charset than declared" },
  "broken-json": { severity: "warning", title: "JSON that cannot be read" },
  "broken-xml": { severity: "warning", title: "XML that cannot be read" },
  "type-not-run": { severity: "warning", title: "Scripts and styles with a type that browsers refuse" },
  "empty-file": { severity: "warning", title: "Empty files" },
  "cut-picture": { severity: "warning", title: "Incomplete pictures" },
  "cut-file": { severity: "warning", title: "Incomplete fonts, sounds, archives and documents" },
};
