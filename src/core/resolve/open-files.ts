import type { Reason } from "../explain/reason.js";
import type { CandidateRole, Trace } from "../explain/trace.js";
import { type Mount, withheldName } from "../rules/mount.js";
import type { Rules } from "../rules/rules.js";
import { hasDotName } from "../rules/withheld.js";
import type { FileSource, Found, Look, OpenedDirectory, OpenedFile } from "../source.js";
import { joinPath } from "../text/path.js";
import type { Looks } from "./looks.js";

/** What is noted of a request on its way, where it is asked for. */
export interface Notes {
  /** Each step, for an explanation. */
  readonly trace?: Trace | undefined;
  /** Each look at a source, for an answer that is to be kept. */
  readonly looks?: Looks | undefined;
}

/** What came of trying one name. `error`: it is there and offered, and cannot be read. */
export type Candidate =
  | { kind: "file"; path: string; file: OpenedFile }
  | DirectoryCandidate
  | { kind: "absent"; reason: Reason }
  | { kind: "error"; status: 403 | 500 | 503; reason: Reason };

export interface DirectoryCandidate {
  readonly kind: "directory";
  readonly directory: OpenedDirectory;
  /** The path where it is when the links on it are followed. */
  readonly real: string;
  readonly reason: Reason;
}

/**
 * Opens a mount's files and directories for one request, and owns each of them until the answer is planned: then `closeAllBut`
 * leaves open the one file that the plan sends, which is the plan's from there on, and closes the others. Nobody else in the core
 * closes what a request opened.
 */
export class OpenFiles {
  #mount: Mount;
  #isFixed: boolean;
  readonly #rules: Rules;
  readonly #trace: Trace | undefined;
  readonly #looks: Looks | undefined;
  readonly #owned: (OpenedFile | OpenedDirectory)[] = [];

  constructor(mount: Mount, rules: Rules, { trace, looks }: Notes) {
    this.#mount = mount;
    this.#isFixed = mount.source.snapshot === undefined;
    this.#rules = rules;
    this.#trace = trace;
    this.#looks = looks;
  }

  /** Tries one name of the mount. A withheld name is never opened, and neither is what a link makes of it sent. */
  async open(path: string, role: CandidateRole): Promise<Candidate> {
    const withheldBy = this.#rules.withheld.by(path);
    if (!this.#isFixed) await this.#fix();
    const candidate = withheldBy === undefined ? await this.#find(path) : withheld(withheldBy, path);
    if (this.#trace !== undefined) await this.#record(this.#trace, path, role, candidate);
    return candidate;
  }

  async #find(path: string): Promise<Candidate> {
    const { source } = this.#mount;
    const found = await source.open(path);
    this.#looks?.note(source, path, found);
    return this.#judge(path, found);
  }

  /** Looks for a file in the releases before this one, newest first. What else the answer needs is its release's, too. */
  async openEarlier(path: string): Promise<{ file: OpenedFile; release: string } | undefined> {
    const { earlier } = this.#mount;
    if (earlier === undefined || this.#rules.withheld.by(path) !== undefined) return undefined;
    const tried = new Set<FileSource>();
    const found = await this.#openIn(await earlier.list(), path, tried);
    // A release may have come, and gone again, after they were listed.
    if (found !== undefined || earlier.listNow === undefined) return found ?? this.#missEarlier();
    return (await this.#openIn(await earlier.listNow(), path, tried)) ?? this.#missEarlier();
  }

  // Another release may come that has it.
  #missEarlier(): undefined {
    this.dependOnMore();
  }

  async #openIn(
    sources: readonly FileSource[],
    path: string,
    tried: Set<FileSource>,
  ): Promise<{ file: OpenedFile; release: string } | undefined> {
    const isWanted = this.#mount.earlier!.answers?.(path);
    for (const source of sources) {
      if (tried.has(source)) continue;
      tried.add(source);
      const fixed = (await source.snapshot?.()) ?? source;
      // An explanation says why it does not answer.
      if (
        !isWanted &&
        this.#trace === undefined &&
        (await this.#mount.names?.mayBeOfEarlier(fixed, path)) === false
      )
        continue;
      const found = await fixed.open(path);
      const candidate = isWanted ? this.#judge(path, found) : await this.#judgeEarlier(fixed, path, found);
      this.#trace?.push({
        stage: "candidate",
        role: "earlier release",
        path: `${source.name}/${path}`,
        found: candidate.kind,
        reason: candidate.kind === "file" ? undefined : candidate.reason,
        diagnosis: undefined,
      });
      if (candidate.kind !== "file") continue;
      this.#looks?.note(fixed, path, found);
      this.#mount = { ...this.#mount, source: fixed };
      return { file: candidate.file, release: source.name };
    }
    return undefined;
  }

  // Only a name that stands for one content can be taken from another release.
  async #judgeEarlier(source: FileSource, path: string, found: Found): Promise<Candidate> {
    const candidate = this.#judge(path, found);
    if (candidate.kind !== "file") return candidate;
    const subject = await this.#mount.names?.whyNotOfEarlier(source, path);
    return subject === undefined
      ? candidate
      : { kind: "absent", reason: { code: "not-fingerprinted", subject } };
  }

  /** Opens a file for the length of a call; undefined if there is none to send. */
  async useFile<Outcome>(
    path: string,
    use: (file: OpenedFile) => Promise<Outcome>,
  ): Promise<Outcome | undefined> {
    const candidate = await this.open(path, "listed file");
    if (candidate.kind !== "file") return undefined;
    const { file } = candidate;
    try {
      return await use(file);
    } finally {
      this.#owned.splice(this.#owned.indexOf(file), 1);
      file.close();
    }
  }

  /** Says that the answer holds while a look does. */
  dependOn(look: Look): void {
    this.#looks?.add(look);
  }

  /** Says that the answer depends on more than the names that were opened, so that it is not kept. */
  dependOnMore(): void {
    if (this.#looks !== undefined) this.#looks.isComplete = false;
  }

  /** The mount, with its source as it was when the request's first file was opened. */
  get mount(): Mount {
    return this.#mount;
  }

  /** The address in the site of a path of the mount, decoded. */
  addressOf(path: string): string {
    const { at } = this.#mount;
    return joinPath(at, path);
  }

  // One request sees one release, whatever is exchanged meanwhile.
  async #fix(): Promise<void> {
    this.#isFixed = true;
    const source = await this.#mount.source.snapshot!();
    this.#mount = { ...this.#mount, source };
  }

  /** Closes what was opened, but for the file that is sent. */
  closeAllBut(sent: OpenedFile | undefined): void {
    for (const one of this.#owned) if (one !== sent) one.close();
    this.#owned.length = 0;
  }

  #judge(path: string, found: Found): Candidate {
    if (found.kind === "file") this.#owned.push(found.file);
    if (found.kind === "directory") this.#owned.push(found.directory);
    if ((found.kind === "file" || found.kind === "directory") && found.realPath !== undefined) {
      const by = withheldName(this.#mount, path, found.realPath);
      if (by !== undefined) return withheld(by, found.realPath);
    }
    return toCandidate(path, found);
  }

  async #record(trace: Trace, path: string, role: CandidateRole, candidate: Candidate): Promise<void> {
    const reason = candidate.kind === "file" ? undefined : candidate.reason;
    const diagnosis =
      reason === undefined || reason.code === "withheld"
        ? undefined
        : await this.#mount.source.diagnose(path);
    trace.push({ stage: "candidate", role, path, found: candidate.kind, reason, diagnosis });
  }
}

function toCandidate(path: string, found: Found): Candidate {
  switch (found.kind) {
    case "file":
      return { kind: "file", path, file: found.file };
    case "directory":
      return {
        kind: "directory",
        directory: found.directory,
        real: found.realPath ?? path,
        reason: { code: "no-default-document" },
      };
    case "missing":
      return { kind: "absent", reason: { code: found.because } };
    case "special":
      return { kind: "absent", reason: { code: "special" } };
    case "forbidden":
      return { kind: "error", status: 403, reason: { code: "no-permission", subject: found.cause } };
    case "unsettled":
      return { kind: "error", status: 503, reason: { code: "unsettled" } };
    case "altered":
      return { kind: "error", status: 503, reason: { code: "not-sealed" } };
    case "failed":
      return toError(found);
  }
}

/** The answer to what the system refuses. */
export function toError({
  busy,
  cause,
}: {
  busy: boolean | undefined;
  cause: string;
}): Extract<Candidate, { kind: "error" }> {
  return busy
    ? { kind: "error", status: 503, reason: { code: "busy", subject: cause } }
    : { kind: "error", status: 500, reason: { code: "failed", subject: cause } };
}

function withheld(label: string, path: string): Candidate {
  return {
    kind: "absent",
    reason: { code: "withheld", subject: label, ...(hasDotName(path) && { isDotName: true }) },
  };
}
