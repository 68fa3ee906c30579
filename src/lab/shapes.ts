/** What the lab's page and whoever answers it tell each other: plain data. */

/** A place in the configuration's text, both from 1. */
export interface Position {
  readonly line: number;
  readonly column: number;
}

export interface LabInfo {
  /** What is looked at: the configuration file, or the folder. */
  readonly about: string;
  readonly mounts: readonly { readonly at: string; readonly source: string }[];
  readonly warnings: readonly string[];
  /** The configuration as text; undefined where it is a module, which only its own editor changes. */
  readonly text: string | undefined;
  /** There is no such file yet: `text` is how somebody would begin one. */
  readonly isNew: boolean;
  /** The JSON Schema of the configuration, for completion. */
  readonly schema: object;
  /** True where changes may be saved. */
  readonly canSave: boolean;
  /** Where the site answers, where it is served. */
  readonly address: string | undefined;
  /** Expectations can be written and run. */
  readonly expectations:
    | { readonly file: string; readonly text: string; readonly isNew: boolean }
    | undefined;
}

/** What a name in a folder is to visitors. */
export type EntryState =
  | "served"
  | "not listed"
  | "withheld"
  | "unreadable"
  | "link leads nowhere"
  | "elsewhere"
  | "special";

export interface TreeEntry {
  readonly name: string;
  readonly kind: "file" | "directory";
  /** Its address, escaped, from the site's root; a folder's ends with a slash. */
  readonly address: string;
  readonly state: EntryState;
  /** Why it is in that state; `""` where it is served. */
  readonly because: string;
  /** A folder for which rules of its own are said. */
  readonly isArea: boolean;
  readonly sizeBytes: number;
}

export interface TreeFolder {
  readonly entries: readonly TreeEntry[];
  /** Entries of the folder that are left out, where there are very many. */
  readonly more: number;
}

export interface Found {
  readonly addresses: readonly string[];
  /** How many there are in all. */
  readonly total: number;
  /** Names were looked through so far; more are being read. */
  readonly isPartial: boolean;
}

export interface LabQuestion {
  readonly method: string;
  readonly target: string;
  /** Whoever asks: a key of AUDIENCES. */
  readonly as: string;
  /** More fields, which replace those of the audience. */
  readonly headers: Readonly<Record<string, string>>;
  /** An application is behind the site. */
  readonly behind: boolean;
}

/** One stage on the way from target to answer. */
export interface Stage {
  readonly name: string;
  /** What it decided, in a few words. */
  readonly decided: string;
  readonly why: string;
  readonly state: "passed" | "decided" | "not reached";
  readonly rows: readonly StageRow[];
}

export interface StageRow {
  readonly cells: readonly string[];
  readonly written?: Position | undefined;
  /** "quiet" for what holds by default. */
  readonly tone?: "quiet" | "hit" | "miss" | undefined;
}

export interface FieldRow {
  readonly name: string;
  readonly value: string;
  readonly because: string;
  readonly written: Position | undefined;
}

/** What would answer if the file that does were not there. */
export interface Otherwise {
  readonly without: string;
  readonly status: string;
  readonly answer: string;
  readonly why: string;
}

export type BodyView =
  | { readonly kind: "none"; readonly why: string }
  | { readonly kind: "text"; readonly text: string; readonly sizeBytes: number; readonly isCut: boolean }
  | { readonly kind: "picture"; readonly url: string; readonly sizeBytes: number }
  | { readonly kind: "bytes"; readonly rows: readonly string[]; readonly sizeBytes: number };

export interface Beam {
  /** The request as it was sent, with the fields of the audience. */
  readonly request: {
    readonly method: string;
    readonly target: string;
    readonly headers: Readonly<Record<string, string>>;
  };
  readonly status: string;
  /** "good", "led on" (3xx), "refused" (4xx, 5xx), "passed on". */
  readonly tone: "good" | "led on" | "refused" | "passed on";
  readonly answer: string;
  readonly why: string;
  readonly hints: readonly string[];
  readonly stages: readonly Stage[];
  readonly fields: readonly FieldRow[];
  readonly otherwise: readonly Otherwise[];
  readonly body: BodyView;
}

/** One problem in the configuration's text. */
export interface TextProblem {
  readonly text: string;
  readonly at: Position | undefined;
}

/** Addresses that change in one way. */
export interface ChangeGroup {
  /** "get another lifetime". */
  readonly words: string;
  readonly count: number;
  readonly here: string;
  readonly there: string;
  /** Some of the addresses, and who asks for them. */
  readonly examples: readonly string[];
}

export interface Changes {
  /** "12 addresses change: 9 get another lifetime, 3 become not found." */
  readonly sentence: string;
  readonly asked: number;
  /** There are too many URLs to ask all for every client: all were asked as a browser, samples as the others. */
  readonly isSampled: boolean;
  readonly changed: number;
  readonly groups: readonly ChangeGroup[];
}

/** How far a look at what changes has come, in addresses. */
export interface LookProgress {
  readonly done: number;
  readonly total: number;
}

export interface PreviewOptions {
  readonly signal: AbortSignal;
  /** Called now and then if it takes longer than half a second. */
  readonly onProgress: (progress: LookProgress) => void;
}

export type Preview =
  | { readonly kind: "problems"; readonly problems: readonly TextProblem[] }
  | { readonly kind: "changes"; readonly changes: Changes; readonly warnings: readonly TextProblem[] };

export type Saved =
  | { readonly ok: true }
  /** `isOther` if the file is not what the text was made from any more. */
  | { readonly ok: false; readonly problem: string; readonly isOther?: boolean };

/** A text to save. */
export interface Edited {
  readonly text: string;
  /** What the file said that it was made from; null if there was none. */
  readonly base: string | null;
}

export interface CaseOutcome {
  readonly name: string;
  readonly outcome: "passed" | "failed" | "unanswered" | "skipped" | "advised" | "known";
  readonly question: {
    readonly method: string;
    readonly path: string;
    readonly headers: Readonly<Record<string, string>>;
  };
  readonly differences: readonly {
    readonly about: string;
    readonly expected: string;
    readonly got: string;
  }[];
  readonly because: string;
  readonly at: Position | undefined;
}

export type CheckOutcome =
  | { readonly kind: "problems"; readonly problems: readonly TextProblem[] }
  | {
      readonly kind: "results";
      readonly cases: readonly CaseOutcome[];
      /** How many of them passed, failed, were skipped and so on, in words. */
      readonly sum: string;
    };

/** A request that the site answered while the lab was open. */
export interface Watched {
  readonly id: number;
  readonly method: string;
  readonly target: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly status: string;
  readonly outcome: string;
  readonly milliseconds: number;
  /** Milliseconds since the epoch. */
  readonly at: number;
}

/** Whoever answers the page: the lab's server, or the page itself with a site in memory. */
export interface LabConnection {
  info(): Promise<LabInfo>;
  folder(mount: number, path: string): Promise<TreeFolder>;
  search(text: string): Promise<Found>;
  ask(question: LabQuestion): Promise<Beam>;
  /** The same, were a text the configuration; undefined where it cannot be. */
  askDraft(text: string, question: LabQuestion): Promise<Beam | undefined>;
  preview(text: string, options: PreviewOptions): Promise<Preview>;
  save(edited: Edited): Promise<Saved>;
  draftCase(question: LabQuestion): Promise<string>;
  check(text: string): Promise<CheckOutcome>;
  saveExpectations(edited: Edited): Promise<Saved>;
  /** Tells what happens while the page is open. Gives what ends it. */
  watch(told: LabWatch): () => void;
}

/** Callbacks for what happens while the page is open. */
export interface LabWatch {
  onRequest(watched: Watched): void;
  /** The configuration or a file changed on disk. */
  onChanged(): void;
  /** The lab answers, or no longer does. */
  onConnection(isThere: boolean): void;
}
