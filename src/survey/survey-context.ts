import { join, relative } from "node:path";
import { EXPOSURES } from "../config/exposures.js";
import { formatPath } from "../core/request/target.js";
import type { Mount } from "../core/rules/mount.js";
import type { CompiledSite } from "../core/site.js";
import { sitePath } from "../core/text/path.js";
import type { Site } from "../site/site.js";
import { type Finding, KINDS, type Place, type Severity } from "./finding.js";

/** A file that visitors can reach, as the walk saw it. */
export interface SurveyedFile {
  readonly mount: Mount;
  /** Inside the mount. */
  readonly path: string;
  readonly sizeBytes: number;
  readonly modifiedMs: number;
  readonly fingerprinted: boolean;
}

/** A folder of a mount: what the walk saw directly in it. */
export interface SurveyedFolder {
  readonly mount: Mount;
  readonly path: string;
  readonly files: readonly SurveyedFile[];
  readonly folders: readonly string[];
}

/** A longer file is read into a buffer of its own, in bytes. */
const SCRATCH_AT_MOST = 4 * 1024 * 1024;

/** What all checks of a survey share: the site, and where they put what they find. */
export class SurveyContext {
  readonly site: Site;
  readonly compiled: CompiledSite;
  readonly findings: Finding[] = [];
  /** Prebuilt codings that were seen: the prefix of the mount and the path. */
  readonly prebuilt = new Set<string>();
  /** Folders that have a default document: the prefix of the mount and the path. */
  readonly documentsIn = new Set<string>();
  /** Addresses of folders that are known to answer 403, each with its slash. */
  readonly refused = new Set<string>();
  /** Addresses of links that lead nowhere, out of the folder, or are not followed. */
  readonly toldLinks = new Set<string>();
  readonly #roots = new Map<Mount, string>();
  #scratch = Buffer.alloc(0);
  readonly #told = new Set<string>();
  readonly #causes = new Map<string, Place[]>();

  constructor(site: Site, compiled: CompiledSite) {
    this.site = site;
    this.compiled = compiled;
  }

  /** Notes a finding; the same one again is left out. */
  report(code: string, { mount, path }: { mount: Mount; path: string }, reason: string, fix: string): void {
    this.reportAt(code, { address: addressOf(mount, path), file: path, reason, fix });
  }

  /** Notes a finding about an address. */
  reportAt(code: string, finding: Omit<Finding, "code" | "severity">): void {
    const key = `${code}\0${finding.address}\0${finding.reason}`;
    if (this.#told.has(key)) return;
    this.#told.add(key);
    this.findings.push({ code, severity: severityOf(code), ...finding });
  }

  /** Notes one cause that several files may have, once, with all of them. `cause` tells it from others of its code. */
  reportCause(code: string, from: SurveyedFile, cause: string, words: Pick<Finding, "reason" | "fix">): void {
    const place = { address: addressOf(from.mount, from.path), file: from.path };
    const key = `${code}\0${cause}`;
    const known = this.#causes.get(key);
    if (known === undefined) {
      const places = [place];
      this.#causes.set(key, places);
      this.reportAt(code, { ...place, ...words, places });
    } else if (known.at(-1)!.address !== place.address) known.push(place);
  }

  /** Says where a mount's folder lies on disk. */
  setRoot(mount: Mount, root: string): void {
    this.#roots.set(mount, root);
  }

  rootOf(mount: Mount): string | undefined {
    return this.#roots.get(mount);
  }

  /** Takes out what was found, to be told elsewhere. */
  takeFindings(): Finding[] {
    return this.findings.splice(0);
  }

  /** A file as a command names it: from the folder that the reader's shell stands in. */
  locate({ mount, path }: { readonly mount: Mount; readonly path: string }): string {
    const root = this.#roots.get(mount);
    return root === undefined ? path : relative(process.cwd(), join(root, path)) || ".";
  }

  /** A buffer that the file that is read now may use. */
  scratch(bytes: number): Buffer {
    if (bytes > SCRATCH_AT_MOST) return Buffer.allocUnsafe(bytes);
    if (this.#scratch.length < bytes) this.#scratch = Buffer.allocUnsafeSlow(Math.max(bytes, 64 * 1024));
    return this.#scratch.subarray(0, bytes);
  }

  /** Lets other work have its turn. */
  pause(): Promise<void> {
    return this.compiled.pause();
  }
}

/** The address of a path of a mount, escaped. */
export function addressOf(mount: Mount, path: string): string {
  return `/${formatPath(sitePath(mount, path))}`;
}

/** The address of a folder, with its slash. */
export function folderAddressOf(mount: Mount, path: string): string {
  return `${addressOf(mount, path).replace(/\/$/, "")}/`;
}

export function severityOf(code: string): Severity {
  return KINDS[code]?.severity ?? EXPOSURES.find((one) => one.code === code)!.severity;
}

/** What findings of a code are, in a few words. */
export function titleOf(code: string): string {
  const { what } = EXPOSURES.find((one) => one.code === code) ?? {};
  return KINDS[code]?.title ?? `${what![0]!.toUpperCase()}${what!.slice(1)} can be reached`;
}
