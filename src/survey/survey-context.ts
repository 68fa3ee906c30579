import { EXPOSURES } from "../config/exposures.js";
import { formatPath } from "../core/request/target.js";
import type { Mount } from "../core/rules/mount.js";
import type { CompiledSite } from "../core/site.js";
import { sitePath } from "../core/text/path.js";
import type { Site } from "../site/site.js";
import { type Finding, KINDS, type Severity } from "./finding.js";

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

/** What all checks of a survey share: the site, and where they put what they find. */
export class SurveyContext {
  readonly site: Site;
  readonly compiled: CompiledSite;
  readonly findings: Finding[] = [];
  /** Addresses that a page, style sheet, script or manifest of the site names. */
  readonly linked = new Set<string>();
  /** Prebuilt codings that were seen: the prefix of the mount and the path. */
  readonly prebuilt = new Set<string>();
  /** Folders that have a default document: the prefix of the mount and the path. */
  readonly documentsIn = new Set<string>();
  /** Addresses of folders that are known to answer 403, each with its slash. */
  readonly refused = new Set<string>();
  readonly #told = new Set<string>();

  constructor(site: Site, compiled: CompiledSite) {
    this.site = site;
    this.compiled = compiled;
  }

  /** Notes a finding; the same one again is left out. */
  report(code: string, { mount, path }: { mount: Mount; path: string }, reason: string, fix: string): void {
    const address = addressOf(mount, path);
    const key = `${code}\0${address}\0${reason}`;
    if (this.#told.has(key)) return;
    this.#told.add(key);
    this.findings.push({ code, severity: severityOf(code), address, file: path, reason, fix });
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
