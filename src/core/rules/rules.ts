import type { RuleInForce } from "../explain/trace.js";
import type { Fields } from "../fields/fields.js";
import type { AddedType } from "../media-types/media-type.js";
import type { Origin } from "../text/origin.js";
import type { Coding } from "./codings.js";
import type { CrossOrigin } from "./cross-origin.js";
import type { CachingRule, DownloadRule, HeaderRule } from "./file-rules.js";
import type { ListingRules, NotListed } from "./listing.js";
import type { Preloads } from "./preloads.js";
import type { ProtectRules } from "./protect.js";
import type { VariantRules } from "./variants.js";
import type { Withheld } from "./withheld.js";

/** A single-page application's document, and the paths (inside the mount, on whole segments) it does not answer. */
export interface AppShell {
  readonly file: string;
  readonly except: readonly string[];
  /** True for a path, folded, whose dot is part of an application's route. */
  readonly isRoute: (folded: string) => boolean;
}

/** Codings that are offered for what compresses well: prebuilt beside the file, and made on the fly. */
export interface Codings {
  readonly prebuilt: readonly Coding[];
  readonly compress: boolean;
}

/** What the configuration says at a path, by the names of its keys: compiled once at start, one property a rule. */
export interface RuleValues {
  /** What a visitor never gets. */
  readonly withheld: Withheld;
  /** Names tried in a directory, in order. */
  readonly defaultDocuments: readonly string[];
  /** Extensions, with their dot, tried in order when a name alone finds no file. */
  readonly impliedExtensions: readonly string[];
  /** What a file's own name is answered with where a shorter address leads to the file. */
  readonly longAddresses: "answer" | "redirect";
  /** How directories without a default document are listed; undefined where they are not. */
  readonly listing: ListingRules | undefined;
  /** What listings leave out. */
  readonly notListed: NotListed;
  /** The document that answers a navigation which no file answers. */
  readonly appShell: AppShell | undefined;
  /** Documents of the mount by the status they are sent with. */
  readonly errorPages: ReadonlyMap<number, string>;
  /** What is done when no file answers and something is behind the site: hand the request on, or answer with an error. */
  readonly whenMissing: "pass" | "answer";
  /** Types that go before the built-in table, by lower-case extension without its dot. */
  readonly mediaTypes: ReadonlyMap<string, AddedType>;
  /** Charset named for text types; `""` names none. */
  readonly charset: string;
  readonly codings: Codings;
  /** Files beside a file that say the same; undefined where none are looked for. */
  readonly variants: VariantRules | undefined;
  /** What an entity tag is made from: size and times, the digest of the bytes, or what serves the file better. */
  readonly validators: "automatic" | "metadata" | "content";
  /** The first that matches decides how long a copy is fresh. */
  readonly caching: readonly CachingRule[];
  /** All that match add their fields. */
  readonly headers: readonly HeaderRule[];
  /** Tells digests of what is sent, and lists them. */
  readonly digests: boolean;
  /** What files say of queries; undefined for nothing. */
  readonly noVarySearch: Fields | undefined;
  /** What documents say that they need at once; undefined for nothing. */
  readonly preloads: Preloads | undefined;
  /** The protective fields of documents; undefined for none. */
  readonly protect: ProtectRules | undefined;
  /** The first that matches makes the file a download. */
  readonly downloads: readonly DownloadRule[];
  readonly crossOrigin: CrossOrigin | undefined;
}

/** The rules that are in force at a path. */
export interface Rules extends RuleValues {
  /** The area they belong to, as a path inside the mount; `""` is the whole mount. */
  readonly area: string;
  /** Where each rule was said, by its name in the configuration; its place is the rule's own key. For explanations. */
  readonly origins: Readonly<Record<keyof RuleValues, Origin>>;
  /** The rules as a person reads them. For explanations. */
  readonly describe: () => readonly RuleInForce[];
}
