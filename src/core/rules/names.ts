import type { Fields } from "../fields/fields.js";
import type { FileMetadata, FileSource, Look, NameCode, OpenedFile } from "../source.js";
import type { EarlierReleases } from "./earlier.js";

/** The codes that say that a name is fingerprinted. */
export const FINGERPRINTED = ["build", "configuration", "folder", "name"] as const satisfies NameCode[];

/** Whether a file's name changes with its content. */
export interface NameVerdict {
  readonly fingerprinted: boolean;
  readonly by: NameCode;
  /** Why, for people: a clause without a full stop. */
  readonly text: string;
}

/** A verdict, and how it is told that it still stands; without a look it stands as long as the file does. */
export interface JudgedName {
  readonly verdict: NameVerdict;
  readonly proof?: Look | undefined;
  /** Fields that depend on the verdict, which say so. */
  readonly explain: (fields: Fields) => Fields;
}

/** A file whose name is judged with what it has in it. */
export interface JudgedFile {
  readonly mount: { readonly source: FileSource; readonly earlier?: EarlierReleases };
  readonly path: string;
  readonly file: OpenedFile;
}

/** What was at a file's address until now, with its digest where that is known. */
export interface FileBefore {
  readonly metadata: FileMetadata;
  readonly digest: { readonly sha256: string } | undefined;
}

/** What is known of the names that builds made, for one mount. */
export interface Names {
  /** Judges the name of a file of the mount; `source` is where the file was found. Never rejects. */
  judge(source: FileSource, path: string): Promise<JudgedName>;
  /**
   * The same; a name that stood for other bytes, here or in an earlier release, is fingerprinted no more. `digest` is that of the file's
   * bytes, in base64url, where it is known. Never rejects.
   */
  judgeFile(
    judged: JudgedFile,
    before: FileBefore | undefined,
    digest: string | undefined,
  ): Promise<JudgedName>;
  /** False where no file of an earlier release can be fingerprinted under this path, so that none is looked for. Never rejects. */
  mayBeOfEarlier(source: FileSource, path: string): Promise<boolean>;
  /** Why a file of an earlier release does not answer for this path, as a clause; undefined if it does. Never rejects. */
  whyNotOfEarlier(source: FileSource, path: string): Promise<string | undefined>;
  /** Says that a fingerprinted name stood for other bytes, of which the developer was told: from now on it is not taken for one. */
  noteChanged(path: string, where: string): void;
}

/** True where a file's name is fingerprinted, as far as anybody knows. */
export async function isFingerprinted(
  names: Names | undefined,
  source: FileSource,
  path: string,
): Promise<boolean> {
  return names !== undefined && (await names.judge(source, path)).verdict.fingerprinted;
}
