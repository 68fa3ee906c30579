// Written by tools/build.mjs, from the schemas. Do not change it here.
import type { ListingRenderer } from "../core/rules/listing.js";
import type { FileSource } from "../core/source.js";

/** Rules, as a mount or one of its areas says them. */
export interface AreaConfig {
  /** Files that are never served, as patterns. An area adds its own to those of the mount. Default: names with a leading dot. */
  withheld?: string[] | undefined;
  /** Names to try in a folder, in order. Default: ["index.html"]. */
  defaultDocuments?: string[] | undefined;
  /** Extensions to try when a name alone finds no file. Default: []. */
  impliedExtensions?: string[] | undefined;
  /** How to answer a file's full name if a shorter address finds it, as /about finds /about.html: answer with the file, or redirect to the shorter address. Default: "answer". */
  longAddresses?: "answer" | "redirect" | undefined;
  /** Lists folders that have no default document: true, or how. Default: false. */
  listing?:
    | boolean
    | {
        /** The order of rows (default name). */
        order?: "name" | "kind" | "size" | "time" | undefined;
        /** Rows on a page (default 500), or all: for programs that read one page only. */
        pageSize?: number | "all" | undefined;
        /** Name of the mount, for the heading and the path above the table. */
        title?: string | undefined;
        /** A sentence above the table. */
        header?: string | undefined;
        /** A sentence below the table. */
        footer?: string | undefined;
        /** Address of a style sheet to load after the built-in one. */
        styleSheet?: string | undefined;
        /** Address of the page's icon (default a built-in one). */
        icon?: string | undefined;
        /** Offer a field that filters by name, from 20 names on (default true). */
        nameFilter?: boolean | undefined;
        /** Your own renderer: gets the listing, and returns { mediaType, body }. */
        render?: ListingRenderer | undefined;
      }
    | undefined;
  /** Files that listings leave out, as patterns. Anyone who knows a name still gets the file; use withheld for files that nobody may see. Default: []. */
  notListed?: string[] | undefined;
  /** The document of a single-page application: it answers navigations if no file does. Default: false. */
  appShell?:
    | string
    | false
    | {
        /** Path of a file from the mount's folder, such as /index.html. */
        file: string;
        /** Paths that the app shell does not answer, with everything below them. */
        except?: string[] | undefined;
        /** Routes whose last name has a dot, such as /users/jane.doe: it is no extension there. */
        routes?: string[] | undefined;
      }
    | undefined;
  /** Your pages for errors, by status. Without one for 410, the one for 404 is sent. Default: {}. */
  errorPages?: Record<string, string> | undefined;
  /** What to do when no file answers. pass: let the application behind the site answer, if there is one. answer: send an error. Default: "pass". */
  whenMissing?: "pass" | "answer" | undefined;
  /** Media types by extension. They come before the built-in table; an area adds its own. Default: the built-in table. */
  mediaTypes?: Record<string, string> | undefined;
  /** Charset for text files that don't declare one. "" adds none. Default: "utf-8". */
  charset?: string | undefined;
  /** Compression: prebuilt files beside the original, and compressing on the fly. Default: { compress: true }. */
  codings?:
    | {
        /** Codings of prebuilt files beside the original, such as app.js.br and app.js.gz. */
        prebuilt?: ("br" | "zstd" | "gzip")[] | undefined;
        /** Compress files on the fly if they compress well (default true). */
        compress?: boolean | undefined;
      }
    | undefined;
  /** Other files with the same content that a browser may prefer: a picture in another format, a document in another language. Default: {}. */
  variants?:
    | {
        /** Formats of pictures beside the original, such as view.avif beside view.jpg: the best first. Chosen by Accept. */
        formats?: string[] | undefined;
        /** Languages of documents: first that of index.html itself, then those of index.nb.html and similar files beside it. Chosen by Accept-Language. */
        languages?: string[] | undefined;
      }
    | undefined;
  /** What entity tags are made from. automatic: the bytes of files up to 1 MiB, size and times of larger ones. content: always the bytes. metadata: always size and times. Default: "automatic". */
  validators?: "automatic" | "content" | "metadata" | undefined;
  /** Sends digests of files to clients that ask for them (RFC 9530), and lists them at ?digests of a listed folder. Default: false. */
  digests?: boolean | undefined;
  /** How long copies stay fresh. The first rule that matches a file decides; without one, copies are checked each time. Default: []. */
  caching?:
    | {
        /** A pattern, a list of patterns, or "fingerprinted": names that bundlers made from the content. */
        files: string | string[];
        policy:
          | "immutable"
          | "revalidate"
          | "no-store"
          | {
              /** How long a copy stays fresh (max-age). */
              maxAge?: string | number | undefined;
              /** How long a copy in a shared cache stays fresh (s-maxage). */
              sharedMaxAge?: string | number | undefined;
              /** How long a stale copy may be used while a new one is fetched. */
              staleWhileRevalidate?: string | number | undefined;
              /** How long a stale copy may be used when the server fails. */
              staleIfError?: string | number | undefined;
              /** A stale copy must be checked before it is used. */
              mustRevalidate?: boolean | undefined;
              /** A fresh copy is not checked again, not even on reload. */
              immutable?: boolean | undefined;
              /** Only the browser may keep a copy. */
              private?: boolean | undefined;
              /** No proxy may change the bytes. */
              noTransform?: boolean | undefined;
            };
        /** Another lifetime for content delivery networks (CDN-Cache-Control, RFC 9213). */
        cdn?:
          | "immutable"
          | "revalidate"
          | "no-store"
          | {
              /** How long a copy stays fresh (max-age). */
              maxAge?: string | number | undefined;
              /** How long a copy in a shared cache stays fresh (s-maxage). */
              sharedMaxAge?: string | number | undefined;
              /** How long a stale copy may be used while a new one is fetched. */
              staleWhileRevalidate?: string | number | undefined;
              /** How long a stale copy may be used when the server fails. */
              staleIfError?: string | number | undefined;
              /** A stale copy must be checked before it is used. */
              mustRevalidate?: boolean | undefined;
              /** A fresh copy is not checked again, not even on reload. */
              immutable?: boolean | undefined;
              /** Only the browser may keep a copy. */
              private?: boolean | undefined;
              /** No proxy may change the bytes. */
              noTransform?: boolean | undefined;
            }
          | undefined;
      }[]
    | undefined;
  /** Query parameters that do not change the answer, so that caches keep one copy (No-Vary-Search): true for all, a list of some, or all except some. Default: false. */
  noVarySearch?:
    | boolean
    | string[]
    | {
        /** Parameters that do change the answer. */
        except: string[];
      }
    | undefined;
  /** Header fields of your own. All rules that match a file apply. Default: []. */
  headers?:
    | {
        /** A pattern, a list of patterns, or "fingerprinted": names that bundlers made from the content. */
        files: string | string[];
        set: Record<string, string>;
      }[]
    | undefined;
  /** Files that the browser saves instead of showing them. Default: []. */
  downloads?:
    | (
        | string
        | {
            /** A pattern, a list of patterns, or "fingerprinted": names that bundlers made from the content. */
            files: string | string[];
            saveAs?: string | undefined;
          }
      )[]
    | undefined;
  /** Security headers of documents: a content security policy made from each page, and rules for framing, referrer and permissions. Isolation and transport security are optional. Default: false. */
  protect?:
    | boolean
    | {
        /** enforce (the default) blocks what the policy forbids; report-only only reports it; none sends no policy. */
        policy?: "enforce" | "report-only" | "none" | undefined;
        /** What documents may load besides the site's files and what they name, by directives of the policy: { connect-src: [https://api.larkholm.example] }. */
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
        /** Where browsers send reports about the policy. */
        report?: string | undefined;
        /** Who may show a document in a frame (default same-origin): nobody, the site, anybody, or these. */
        framing?: "none" | "same-origin" | "anywhere" | string[] | undefined;
        /** What other sites learn about where a visitor comes from (default strict-origin-when-cross-origin). */
        referrer?:
          | "no-referrer"
          | "same-origin"
          | "strict-origin"
          | "strict-origin-when-cross-origin"
          | undefined;
        /** Features that documents may use, such as geolocation; without this, camera, microphone and similar ones are off. */
        permissions?: string[] | undefined;
        /** Cross-origin isolation (COOP and COEP), for precise timers and shared memory (default false). */
        isolation?: boolean | undefined;
        /** Over TLS: how long browsers must use TLS for the site. Hard to take back; begin with 1d. */
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
  /** Tells browsers early what a page needs: its style sheets, its modules, and its own preloads (Link; over HTTP/2 also 103 Early Hints, RFC 8297). Default: false. */
  preloads?: boolean | undefined;
  /** Other origins that may read the files. Default: false. */
  crossOrigin?: "*" | false | string[] | undefined;
}

/** A mount: what it serves and where, and its rules. */
export interface MountConfig extends AreaConfig {
  /** URL prefix, such as "/docs"; "/" is the whole site. */
  at?: string | undefined;
  /** The folder whose files are served. */
  folder?: string | undefined;
  /** The set of rules to start with (default pages). */
  kind?: "pages" | "app" | "archive" | undefined;
  /** Which symbolic links to follow (default inside). */
  links?: "inside" | "none" | "anywhere" | undefined;
  /** Files whose names change with their content: patterns, or the path of a list that the build wrote (a path or a pattern on each line, or a manifest of Vite). Paths in it start at the mount's folder. */
  fingerprints?: string | string[] | undefined;
  /** Earlier builds. They still answer for fingerprinted files that are not in this build. */
  earlierReleases?:
    | (string | FileSource)[]
    | {
        /** A pattern of folders, each a release: ../builds/*. A site that is served from a release store needs none. */
        folders?: string | undefined;
        /** How many of the newest count (at most 20): folders by when they last changed, releases of a store by when they were present. */
        keep?: number | undefined;
        /** Not older than this, such as 14d. */
        within?: string | number | undefined;
        /** Patterns of further files that earlier builds still answer for, whatever their names are. */
        files?: string | string[] | undefined;
      }
    | undefined;
  /** Rules for single folders of the mount. */
  areas?: Record<string, AreaConfig> | undefined;
  /** Where the files come from, instead of a folder. */
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
  /** Where relative folders start: import.meta.url, or the absolute path of a folder. */
  base?: string | URL | undefined;
  mounts: MountConfig[];
  /** Addresses that moved: the old one, and the new one. A folder (with a slash at its end) moves with everything below it. Existing files come first. */
  moved?:
    | Record<
        string,
        | string
        | {
            /** The new address: a path of the site, or one of another site with https. */
            to: string;
            /** The old address will be used again: 302 instead of 301 (default false). */
            temporary?: boolean | undefined;
            /** Whether the query is kept in the new address (default keep). */
            query?: "keep" | "drop" | undefined;
          }
      >
    | undefined;
  /** Addresses that are gone for good: they are answered with 410. A folder ends with a slash, and includes everything below it. */
  gone?: string[] | undefined;
  /** Makes startup fail if a quick look finds files that nobody should reach: keys, secrets, a whole project. */
  refuse?:
    | "severe"
    | {
        /** Findings of this severity make startup fail. */
        severity: "severe";
        /** Files and folders that are meant to be reached, as patterns from the mount's folder. */
        except: string[];
      }
    | undefined;
  /** What a survey takes for too much. */
  budget?:
    | {
        /** The largest picture that pages may load: 1MB when not given. */
        picture: string | number;
      }
    | undefined;
  /** Your system's file of media types, such as /etc/mime.types: each line has a type and its extensions. */
  typesFile?: string | undefined;
}

/** Any rules, said anywhere. */
export type RulesConfig = AreaConfig;
export type EarlierConfig = NonNullable<MountConfig["earlierReleases"]>;
