// Written by npm run docs, from the schemas. Do not change it here.
import type { ListingRenderer } from "../core/rules/listing.js";
import type { FileSource } from "../core/source.js";

/** Rules, as a mount or one of its areas says them. */
export interface AreaConfig {
  /** Patterns of files that are never served; an area adds to what encloses it. Default: names with a leading dot. */
  withheld?: string[] | undefined;
  /** Names tried in a directory, in order. Default: ["index.html"]. */
  defaultDocuments?: string[] | undefined;
  /** Extensions tried when a name alone finds no file. Default: []. */
  impliedExtensions?: string[] | undefined;
  /** What a file's own name is answered with where a shorter address leads to it (/about.html and /about, /guide/index.html and /guide/): answer with the file, or redirect to the shorter address. Default: "answer". */
  longAddresses?: "answer" | "redirect" | undefined;
  /** Lists directories that have no default document: true, or how. Default: false. */
  listing?:
    | boolean
    | {
        /** What rows are ordered by at first (default name). */
        order?: "name" | "kind" | "size" | "time" | undefined;
        /** Rows on a page (default 500). */
        pageSize?: number | undefined;
        /** Name of the mount, for the heading and the way up. */
        title?: string | undefined;
        /** A sentence above the table. */
        header?: string | undefined;
        /** A sentence below the table. */
        footer?: string | undefined;
        /** Address of a style sheet that comes after the built-in one. */
        styleSheet?: string | undefined;
        /** Offer a field that filters by name, where scripts run (default true). */
        nameFilter?: boolean | undefined;
        /** Makes the listing in your own way: gets it, and gives { mediaType, body }. */
        render?: ListingRenderer | undefined;
      }
    | undefined;
  /** Patterns of files that listings leave out; they are still served. What must not be seen is withheld. Default: []. */
  notListed?: string[] | undefined;
  /** The document that answers a navigation which no file answers. Default: false. */
  appShell?:
    | string
    | false
    | {
        /** Path of a file from the mount's folder, such as /404.html. */
        file: string;
        /** Paths below which the shell does not answer. */
        except?: string[] | undefined;
      }
    | undefined;
  /** Documents by the status they are sent with; without one for 410, that for 404. Default: {}. */
  errorPages?: Record<string, string> | undefined;
  /** pass: hand what is missing on to the application, where one stands behind the site; answer: an error all the same. Default: "pass". */
  whenMissing?: "pass" | "answer" | undefined;
  /** Media types by extension, before the built-in table; an area adds to what encloses it. Default: the built-in table. */
  mediaTypes?: Record<string, string> | undefined;
  /** Charset named for text that does not say its own (default utf-8); "" names none at all. Default: "utf-8". */
  charset?: string | undefined;
  /** Content codings that are offered. Default: { compress: true }. */
  codings?:
    | {
        /** Codings that lie beside the file, as app.js.br and app.js.gz. */
        prebuilt?: ("br" | "zstd" | "gzip")[] | undefined;
        /** Compress on the fly what compresses well (default true). */
        compress?: boolean | undefined;
      }
    | undefined;
  /** Files beside a file that say the same, and are sent in its place to who wants them more: a picture in another format, a document in another language. Default: {}. */
  variants?:
    | {
        /** Formats of pictures that may lie beside the original, as view.avif beside view.jpg: the best first. Chosen by Accept. */
        formats?: string[] | undefined;
        /** Languages of documents: first that of index.html itself, then those of index.nb.html and the like beside it. Chosen by Accept-Language. */
        languages?: string[] | undefined;
      }
    | undefined;
  /** What entity tags are made of. automatic: the digest of the bytes up to 1 MiB, size and times above; content: always the digest; metadata: always size and times. Default: "automatic". */
  validators?: "automatic" | "content" | "metadata" | undefined;
  /** Digests that clients can hold what they got against (RFC 9530): Repr-Digest where it is known or asked for, Content-Digest where asked for, and a list of them at ?digests of a listed directory. Default: false. */
  digests?: boolean | undefined;
  /** How long copies are fresh; the first rule that matches decides, and with none they are revalidated. Default: []. */
  caching?:
    | {
        /** A pattern, a list of patterns, or "fingerprinted": names that bundlers made of the content. */
        files: string | string[];
        policy:
          | "immutable"
          | "revalidate"
          | "no-store"
          | {
              /** How long a copy is fresh (max-age). */
              maxAge?: string | number | undefined;
              /** How long a shared cache's copy is fresh (s-maxage). */
              sharedMaxAge?: string | number | undefined;
              /** How long a stale copy may be used while it is asked for again. */
              staleWhileRevalidate?: string | number | undefined;
              /** How long a stale copy may be used when the server fails. */
              staleIfError?: string | number | undefined;
              /** A stale copy is never used unasked. */
              mustRevalidate?: boolean | undefined;
              /** A fresh copy is not asked for again, not even on reload. */
              immutable?: boolean | undefined;
              /** Only for the browser's own cache. */
              private?: boolean | undefined;
              /** Nobody may change the bytes on the way. */
              noTransform?: boolean | undefined;
            };
        /** What a content delivery network is told instead (CDN-Cache-Control, RFC 9213). */
        cdn?:
          | "immutable"
          | "revalidate"
          | "no-store"
          | {
              /** How long a copy is fresh (max-age). */
              maxAge?: string | number | undefined;
              /** How long a shared cache's copy is fresh (s-maxage). */
              sharedMaxAge?: string | number | undefined;
              /** How long a stale copy may be used while it is asked for again. */
              staleWhileRevalidate?: string | number | undefined;
              /** How long a stale copy may be used when the server fails. */
              staleIfError?: string | number | undefined;
              /** A stale copy is never used unasked. */
              mustRevalidate?: boolean | undefined;
              /** A fresh copy is not asked for again, not even on reload. */
              immutable?: boolean | undefined;
              /** Only for the browser's own cache. */
              private?: boolean | undefined;
              /** Nobody may change the bytes on the way. */
              noTransform?: boolean | undefined;
            }
          | undefined;
      }[]
    | undefined;
  /** Queries that mean nothing to a file, so that caches need no copy for each (No-Vary-Search): true for all parameters, a list of those, or all except some. Default: false. */
  noVarySearch?:
    | boolean
    | string[]
    | {
        /** Parameters that do mean something. */
        except: string[];
      }
    | undefined;
  /** Header fields of your own; all rules that match are used. Default: []. */
  headers?:
    | {
        /** A pattern, a list of patterns, or "fingerprinted": names that bundlers made of the content. */
        files: string | string[];
        set: Record<string, string>;
      }[]
    | undefined;
  /** Files that the browser saves and does not show. Default: []. */
  downloads?:
    | (
        | string
        | {
            /** A pattern, a list of patterns, or "fingerprinted": names that bundlers made of the content. */
            files: string | string[];
            saveAs?: string | undefined;
          }
      )[]
    | undefined;
  /** Protective fields of documents: a content security policy that is made of each page, framing, referrer, permissions; isolation and transport security on request. Default: false. */
  protect?:
    | boolean
    | {
        /** Whether what the policy forbids is stopped (enforce, the default), only reported, or there is no policy. */
        policy?: "enforce" | "report-only" | "none" | undefined;
        /** What documents may load besides what the site has and what they name, by the directives of the policy: { connect-src: [https://api.larkholm.example] }. */
        allow?:
          | Partial<
              Record<
                | "default-src"
                | "script-src"
                | "style-src"
                | "img-src"
                | "font-src"
                | "media-src"
                | "connect-src"
                | "frame-src"
                | "worker-src"
                | "manifest-src"
                | "object-src"
                | "base-uri"
                | "form-action",
                string[]
              >
            >
          | undefined;
        /** Where browsers report what the policy forbids. */
        report?: string | undefined;
        /** Who may show a document in a frame (default same-origin): nobody, the site, anybody, or these. */
        framing?: "none" | "same-origin" | "anywhere" | string[] | undefined;
        /** What other sites learn of where a visitor comes from (default strict-origin-when-cross-origin). */
        referrer?:
          | "no-referrer"
          | "same-origin"
          | "strict-origin"
          | "strict-origin-when-cross-origin"
          | undefined;
        /** Features that documents may use, such as geolocation; camera, microphone and the like are off otherwise. */
        permissions?: string[] | undefined;
        /** Cross-origin isolation (COOP and COEP), for precise timers and shared memory (default false). */
        isolation?: boolean | undefined;
        /** Over TLS: how long browsers ask for the site over TLS alone. Hard to take back; begin with 1d. */
        transportSecurity?:
          | string
          | number
          | {
              /** A duration: 90s, 10m, 1h30m, 7d, 2w, 1y, or a number of seconds. */
              maxAge: string | number;
              includeSubDomains?: boolean | undefined;
            }
          | undefined;
      }
    | undefined;
  /** Says in Link what a document's own head needs at once: style sheets, modules, what it preloads; over HTTP/2 a navigation is told before the answer (103 Early Hints, RFC 8297). Default: false. */
  preloads?: boolean | undefined;
  /** Which other origins may read the files. Default: false. */
  crossOrigin?: "*" | false | string[] | undefined;
}

/** A mount: what it serves and where, and its rules. */
export interface MountConfig extends AreaConfig {
  /** URL prefix, such as "/docs"; "/" is the whole site. */
  at?: string | undefined;
  /** The folder whose files are served. */
  folder?: string | undefined;
  /** The starting set of rules (default pages). */
  kind?: "pages" | "app" | "archive" | undefined;
  /** Which symbolic links are followed (default inside). */
  links?: "inside" | "none" | "anywhere" | undefined;
  /** Releases before this one: they still answer for files with a fingerprint in their names that this one lacks. */
  earlierReleases?:
    | (string | FileSource)[]
    | {
        /** A pattern of folders, each a release: ../releases/*. */
        folders: string;
        /** The newest so many, by when they last changed (at most 20). */
        keep?: number | undefined;
        /** Not older than this, such as 14d. */
        within?: string | number | undefined;
      }
    | undefined;
  /** Rules of their own for folders inside the mount. */
  areas?: Record<string, AreaConfig> | undefined;
  /** Where the files come from, in place of a folder. */
  source?: FileSource | undefined;
}

/** The rules that may be said once for the whole site. */
export type SharedRules = Pick<
  AreaConfig,
  | "withheld"
  | "defaultDocuments"
  | "impliedExtensions"
  | "longAddresses"
  | "notListed"
  | "whenMissing"
  | "mediaTypes"
  | "charset"
  | "codings"
  | "variants"
  | "validators"
  | "digests"
  | "noVarySearch"
  | "protect"
  | "preloads"
  | "crossOrigin"
>;

/** A configuration: mounts, and what holds for all of them. */
export interface SiteConfig extends SharedRules {
  /** What relative folders start from: import.meta.url, or the absolute path of a folder. */
  base?: string | URL | undefined;
  mounts: MountConfig[];
  /** Addresses that moved: the old one, and the new one. A folder (with a slash at its end) moves with everything below it. A file that is there answers before. */
  moved?:
    | Record<
        string,
        | string
        | {
            /** The new address: a path of the site, or one of another site with https. */
            to: string;
            /** The old address will count again: 302 instead of 301 (default false). */
            temporary?: boolean | undefined;
            /** Whether what stands behind the ? goes along (default keep). */
            query?: "keep" | "drop" | undefined;
          }
      >
    | undefined;
  /** Addresses that will not come back: they are answered with 410. A folder ends with a slash, and counts with everything below it. */
  gone?: string[] | undefined;
  /** Stops the start where a quick look finds what nobody may reach: keys, secrets, a project's own folder */
  refuse?: "severe" | undefined;
  /** A file of media types as systems have it, such as /etc/mime.types: a type and its extensions a line. */
  typesFile?: string | undefined;
}

/** Any rules, said anywhere. */
export type RulesConfig = AreaConfig;
export type EarlierConfig = NonNullable<MountConfig["earlierReleases"]>;
