import type { CrossOrigin } from "../answer/cross-origin.js";
import type { Listing } from "../listing/collect.js";
import type { Order } from "../listing/entry.js";
import type { Pause } from "../listing/order.js";
import type { Coding, Compressor } from "../represent/coding.js";
import type { FileMetadata, FileSource } from "../source.js";
import type { PrefixTree } from "./prefix-tree.js";

/** What the rules make of a file, whatever coding it is sent in: worked out once for as long as both stand. */
export interface FileProfile {
  /** The opaque part of its entity tag, without quotes. */
  readonly tagBase: string;
  readonly lastModifiedSeconds: number;
  readonly lastModified: string;
  readonly contentType: string;
  /** Codings that may be offered for it, the most wanted first; empty when it is always sent as it is. */
  readonly codings: readonly Coding[];
  /** Codings may be made on the fly, and not only found prebuilt. */
  readonly compresses: boolean;
  readonly cachingFields: readonly string[];
  /** Field lines of any answer with it, an error among them: `nosniff`, and the header rules'. */
  readonly safetyFields: readonly string[];
  /** Those, and the ones that depend on neither coding nor validators: download, origins, Vary. */
  readonly otherFields: readonly string[];
  /** Those of them that a 304 repeats. */
  readonly varyFields: readonly string[];
}

/** How a directory is listed, and how the page looks. Texts are plain text. */
export interface ListingRules {
  readonly order: Order;
  /** Rows on a page. */
  readonly pageSize: number;
  readonly title: string | undefined;
  readonly header: string | undefined;
  readonly footer: string | undefined;
  readonly stylesheet: string | undefined;
  readonly filter: boolean;
  /** A rendering of the developer's own; undefined leaves that form to the library. */
  readonly render: ListingRenderer | undefined;
}

/** Renders a page of a listing in the form that was negotiated, or gives undefined to leave it to the library. */
export type ListingRenderer = (
  listing: Listing,
  form: "text/html" | "application/json" | "text/plain",
) => { readonly mediaType: string; readonly body: string } | undefined;

/** A rule for some files of a mount. */
export interface FileRule {
  /** Where it is written, for explanations. */
  readonly label: string;
  /** Takes the path inside the mount, with names folded and as it is. */
  readonly matches: (foldedPath: string, path: string) => boolean;
}

/** How long a copy of a file is fresh: the field lines that say so. */
export interface CachingRule extends FileRule {
  readonly fields: readonly string[];
  /** The file must not be changed on its way, so neither is it compressed on the fly. */
  readonly noTransform: boolean;
  /** How long the longest-lived copy is fresh, in seconds. */
  readonly lifetimeSeconds: number;
}

/** Field lines of the developer's own. */
export interface HeaderRule extends FileRule {
  readonly fields: readonly (readonly [name: string, value: string])[];
}

/** Files that the browser saves; `name` is what it saves them as, when not their own name. */
export interface DownloadRule extends FileRule {
  readonly name: string | undefined;
}

/** A single-page application's document, and the paths (inside the mount, on whole segments) it does not answer. */
export interface AppShell {
  readonly file: string;
  readonly except: readonly string[];
}

/** The rules that are in force at a path: what the configuration says there, compiled once at start. */
export interface Rules {
  /** The area they belong to, as a path inside the mount; `""` is the whole mount. */
  readonly area: string;
  /** Names tried in a directory, in order. */
  readonly defaultDocuments: readonly string[];
  /** Extensions, with their dot, tried in order when a name alone finds no file. */
  readonly impliedExtensions: readonly string[];
  /** The document that answers a navigation which no file answers. */
  readonly appShell: AppShell | undefined;
  /** Documents of the mount by the status they are sent with. */
  readonly errorPages: ReadonlyMap<number, string>;
  /** What the visitor may get of a path: undefined, or the rule that withholds it, in words. */
  readonly withheldBy: (path: string) => string | undefined;
  /** The withholding patterns in force, as they are written. For explanations. */
  readonly withheldPatterns: readonly string[];
  /** How directories without a default document are listed; undefined where they are not. */
  readonly listing: ListingRules | undefined;
  /** The rule that leaves a path out of listings, in words; undefined when it is listed. */
  readonly unlistedBy: (path: string) => string | undefined;
  /** The unlisting patterns in force, as they are written. For explanations. */
  readonly unlistedPatterns: readonly string[];
  /** Types that go before the built-in table, by lower-case extension without its dot. */
  readonly mediaTypes: ReadonlyMap<string, string>;
  /** Charset named for text types; `""` names none. */
  readonly charset: string;
  /** What is done when no file answers: answer with an error, or hand the request on. */
  readonly whenMissing: "answer" | "pass";
  /** Codings that are offered for what compresses well: prebuilt beside the file, and made on the fly. */
  readonly codings: { readonly prebuilt: readonly Coding[]; readonly compress: boolean };
  /** What an entity tag is made of: size and times, or the digest of the bytes. */
  readonly validators: "metadata" | "content";
  /** The first that matches decides how long a copy is fresh. */
  readonly caching: readonly CachingRule[];
  /** All that match add their fields. */
  readonly headers: readonly HeaderRule[];
  /** The first that matches makes the file a download. */
  readonly downloads: readonly DownloadRule[];
  readonly crossOrigin: CrossOrigin | undefined;
  /** Brings names together that some file system takes for one, for the rules above. */
  readonly fold: (path: string) => string;
  /** Where each rule was said, by its name in the configuration. For explanations. */
  readonly origins: Readonly<Record<string, string>>;
  /** What was worked out for a file under these rules, kept for as long as its metadata object lives. */
  readonly profiles: WeakMap<FileMetadata, FileProfile>;
}

/** A source of files under a URL prefix, with its rules by path inside it. */
export interface Mount {
  /** The prefix as configured, decoded, without a slash at its end; `""` is the root. */
  readonly at: string;
  readonly source: FileSource;
  readonly areas: PrefixTree<Rules>;
  /** The rules of each area, the mount's own first. */
  readonly allRules: readonly Rules[];
}

/** Everything one configuration serves, ready to answer. */
export interface CompiledSite {
  readonly mounts: PrefixTree<Mount>;
  readonly mountList: readonly Mount[];
  /** Makes codings on the fly; undefined where none can be made. */
  readonly compressor: Compressor | undefined;
  /** Lets other requests have their turn in long work. */
  readonly pause: Pause;
  /** The clock, in milliseconds since the epoch. */
  readonly now: () => number;
}

/** The rules of the nearest enclosing area. */
export function selectRules(mount: Mount, path: string): Rules {
  return mount.areas.find(path)!.value;
}
