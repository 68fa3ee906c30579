import type { Answer } from "../core/answer/plan.js";
import type { Trace } from "../core/explain/trace.js";
import type { Memory } from "../core/memory/memory.js";
import type { SiteRequest } from "../core/request/request.js";
import type { ServedEntry } from "./served-files.js";

/** An answer with the steps that led to it. */
export interface Explanation {
  readonly answer: Answer;
  readonly trace: Trace;
  /** Why the answer is what it is, in one sentence. */
  readonly why: string;
  /**
   * For an error: its most likely causes, each with what to do about it, the most likely first. For another answer: what is probably
   * not meant. None for what is passed on.
   */
  readonly hints: readonly string[];
  /** Where the file's bytes come from, in words; undefined for a site that is not served from a release store. */
  readonly bytes?: string | undefined;
}

/** How one file of a site is answered. */
export interface SiteFileOptions {
  /** Makes the browser save the file: under this name, or with `true` under its own (RFC 6266). */
  readonly saveAs?: string | true;
}

/** Answers requests: a site, or one file of it. Adapters carry its plans out. */
export interface Responder {
  /** What is remembered between requests, with its bounds and counts. */
  readonly memory: Memory;
  /**
   * Plans the response to a request, without a socket. Never rejects for what the request says. A plan whose body is a file
   * owns it, open: carry it out with an adapter, read it with `readPlan`, or release it with `releasePlan`.
   */
  respond(request: SiteRequest): Promise<Answer>;
  /** Plans the error for an answer that could not be delivered, while none of it was sent: 503 where it may be in a moment, else 500. */
  respondFailed(request: SiteRequest, cause: string, isTemporary?: boolean): Promise<Answer>;
}

/** One file of a site, as the answer to any request, whatever the request's target says. */
export interface SiteFile extends Responder {}

/** A mount as the site tells of it: prefix, source, and the prefixes under which an app shell answers deep links. */
export interface SiteMount {
  readonly at: string;
  readonly source: string;
  /** Each from the site's root, ending with a slash. */
  readonly appShells: readonly string[];
}

/** An address that moved or is gone, as the configuration says it. */
export interface SiteMoved {
  /** The old address, escaped; a folder's ends with a slash, and stands for everything below it. */
  readonly from: string;
  /** The new one, escaped, or an address of another site; undefined for what is gone. */
  readonly to: string | undefined;
  readonly temporary: boolean;
  /** Whether what is behind the `?` goes along. */
  readonly keepsQuery: boolean;
}

/** How a site is opened. */
export interface OpenOptions {
  /**
   * Serves the folders as they are now, even if they change later: each file is read once. With the path of a seal file, as they were
   * when that was written. Relative paths are from the working directory.
   */
  readonly seal?: boolean | string;
  /** For a site from a release store, see StoreOptions. */
  readonly store?: undefined;
}

/** A cache on disk for the files of a release store. */
export interface CacheOptions {
  /** A folder of its own, such as "/var/cache/larkholm". */
  readonly folder: string;
  /** The most that it takes, in bytes. */
  readonly bytes: number;
}

/** How a site is opened whose files come from a release store. */
export interface StoreOptions {
  /** The store whose present release is served, instead of the folders of the configuration: a folder, or `s3://BUCKET/PREFIX`. */
  readonly store: string;
  /** Keeps files that are wanted again on disk. Without it they are in memory only. */
  readonly cache?: CacheOptions | undefined;
  /** Called with what changes: another release, a store that does not answer. Without it the process warns of what goes wrong. */
  readonly onNotice?: ((text: string) => void) | undefined;
}

/** What an explanation is made for. */
export interface ExplainOptions {
  /** Leaves the answer's body open, for `readPlan`; otherwise it is released. */
  readonly keepBody?: boolean;
}

/** What was read of a release store, and from where. */
export interface StoreCounts {
  /** Files and pieces that were in memory. */
  readonly memory: number;
  /** Those that were in the cache on disk. */
  readonly disk: number;
  /** Those that came from the store. */
  readonly store: number;
  /** Reads that the store failed: each was answered with 503, or cut off. */
  readonly failures: number;
  /** Bytes that came from the store. */
  readonly bytes: number;
}

/** How a site stands with its release store. */
export interface StoreState {
  /** The store, as it was written. */
  readonly place: string;
  /** The release that is served. */
  readonly release: { readonly number: number; readonly published: string };
  /** When the store was asked last which release is present, in milliseconds since the epoch; 0 for never. */
  readonly lookedMs: number;
  /** Since when the store does not answer, and what it says. */
  readonly failure: { readonly sinceMs: number; readonly message: string } | undefined;
  readonly counts: StoreCounts;
  /** Bytes that are kept in memory, and on disk. */
  readonly kept: { readonly memory: number; readonly disk: number };
}

/** A site that is ready to answer. */
export interface Site extends Responder {
  /** How it stands with its release store; undefined for a site without one. */
  readonly store?: StoreState | undefined;
  /** What is served where, in the order of the configuration. */
  readonly mounts: readonly SiteMount[];
  /** What start-up found that is probably not meant: a sentence for each. A file of a route that is not there adds one. */
  readonly warnings: readonly string[];
  /** Addresses that moved or are gone, in the order of the configuration. */
  readonly moved: readonly SiteMoved[];
  /**
   * One file of the site, for routes of the application's own. The path is the file's own address, not escaped, such as
   * "/reports/Season report 2026.pdf". Throws a RangeError for a path that no file of the site can have.
   */
  file(path: string, options?: SiteFileOptions): SiteFile;
  /** Plans the response like `respond`, and records each step. */
  explain(request: SiteRequest, options?: ExplainOptions): Promise<Explanation>;
  /** Every file and directory that is offered, withheld ones left out. Nothing is opened. */
  files(): AsyncIterable<ServedEntry>;
}
