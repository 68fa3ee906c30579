import { Fields } from "../fields/fields.js";
import type { Memory } from "../memory/memory.js";
import type { Store } from "../memory/store.js";
import {
  type FileBefore,
  isDocument,
  type JudgedFile,
  type JudgedName,
  type Names,
  withoutCompanion,
} from "../rules/names.js";
import type { FileSource, Found, Look, NameCode, OpenedDirectory } from "../source.js";
import { decodeUtf8 } from "../text/utf8.js";
import { type NameList, readNameList } from "./lists.js";
import { findInEarlier, isOther } from "./other-bytes.js";
import { FolderShapes, findPlainToken, type Shape } from "./shapes.js";
import { readTokens } from "./token.js";

/** Where the plugin for Vite writes the names that it made, and Vite its manifest: in folders that no visitor gets. */
export const OWN_LISTS = [".epistyle/fingerprints.txt", ".vite/manifest.json"] as const;

/** Where nothing can be looked at without waiting, what is known is found out again after so long, in milliseconds. */
const KNOWN_MS = 1000;
/** So many names of a folder are looked at. */
const NAMES_AT_MOST = 5000;
/** A longer list is not read, in bytes. */
const LIST_AT_MOST = 16 * 1024 * 1024;

/** So many names that stood for other bytes are told one by one. */
const TOLD_AT_MOST = 10;

const FOLDERS = {
  name: "how folders name their files",
  bound: 4096,
  unit: "entries",
  proof: "the folder's own inode and times, and those of the build's lists",
} as const;

const CHANGED = {
  name: "names that stood for other bytes",
  bound: 65_536,
  unit: "entries",
  proof: "what was seen stays seen",
} as const;

/** What a mount says of its names. */
export interface NamesOptions {
  readonly memory: Memory;
  /** Tells the mount from others: its prefix. */
  readonly at: string;
  /** Names and patterns of the configuration. */
  readonly said?: ((path: string) => boolean) | undefined;
  /** A list that the configuration names, as it was at start. */
  readonly list?: NameList | undefined;
  /** Tells the developer of a name that stood for two contents. */
  readonly tell: (text: string) => void;
}

/** A list, or undefined where there is none; and how it is told that it still stands. */
interface KnownList {
  readonly list: NameList | undefined;
  readonly look: Look | undefined;
}

interface KnownFolder {
  readonly lists: readonly NameList[];
  readonly shapes: FolderShapes | undefined;
  /** A list names files of the folder. */
  readonly isListed: boolean;
  readonly proof: Proof;
}

/** Knows the names of a mount: from what the build says, from what lies beside a file, and from the name alone, in this order. */
export class KnownNames implements Names {
  readonly #options: NamesOptions;
  readonly #folders: Store<string, Promise<KnownFolder>>;
  readonly #changed: Store<string, string>;
  readonly #sources = new WeakMap<FileSource, number>();
  #count = 0;
  #told = 0;

  constructor(options: NamesOptions) {
    this.#options = options;
    this.#folders = options.memory.open(FOLDERS);
    this.#changed = options.memory.open(CHANGED);
  }

  async judge(source: FileSource, path: string): Promise<JudgedName> {
    if (isDocument(path)) return judgeDocument(path);
    const changed = this.#changed.get(path);
    if (changed !== undefined) return verdict("changed", `the name stood for other bytes ${changed}`);
    const sealed = source.sealedName?.(path);
    if (sealed !== undefined) return verdict(sealed, SEALED[sealed]);
    const { said } = this.#options;
    const plain = withoutCompanion(path);
    if (said?.(path) || said?.(plain))
      return verdict("configuration", "fingerprints of the configuration names it");
    const slash = path.lastIndexOf("/");
    const folder = await this.#know(source, path.slice(0, Math.max(0, slash)));
    const list = folder.lists.find(({ has }) => has(path) || has(plain));
    if (list !== undefined)
      return { ...verdict("build", `the build says so in ${list.name}`), proof: folder.proof };
    const name = path.slice(slash + 1);
    // A build that names some files of a folder names all that it made there.
    const shape = folder.isListed ? undefined : folder.shapes?.find(name);
    // A name that leaves no doubt is one whatever happens beside it.
    if (findPlainToken(name) !== undefined)
      return shape === undefined
        ? verdict("name", "its name leaves no doubt")
        : verdict("folder", describeShape(shape));
    if (shape !== undefined) return { ...verdict("folder", describeShape(shape)), proof: folder.proof };
    return readTokens(name).length === 0
      ? { ...verdict("no-ending", NO_ENDING), proof: folder.proof }
      : { ...verdict("unlike-others", UNLIKE_OTHERS), proof: folder.proof };
  }

  async judgeFile(
    judged: JudgedFile,
    before: FileBefore | undefined,
    digest: string | undefined,
  ): Promise<JudgedName> {
    const { path } = judged;
    const { source } = judged.mount;
    const name = await this.judge(source, path);
    if (!name.verdict.fingerprinted || name.verdict.by === "configuration") return name;
    const where = isOther(before, judged.file, digest) ? "before" : await findInEarlier(judged);
    if (where === undefined) return name;
    this.#tellChanged(path, where);
    return this.judge(source, path);
  }

  async mayBeOfEarlier(source: FileSource, path: string): Promise<boolean> {
    if (isDocument(path)) return false;
    const { said } = this.#options;
    if (readTokens(path.slice(path.lastIndexOf("/") + 1)).length > 0 || said?.(path)) return true;
    if (source.sealedName !== undefined) return source.sealedName(path) !== undefined;
    const { lists } = await this.#know(source, "");
    return lists.some(({ has }) => has(path));
  }

  noteChanged(path: string, where: string): void {
    this.#changed.set(path, where);
  }

  #tellChanged(path: string, where: string): void {
    this.noteChanged(path, where);
    if (++this.#told > TOLD_AT_MOST) return;
    const { at, tell } = this.#options;
    if (this.#told === TOLD_AT_MOST) {
      tell(
        `The mount at /${at}: ${path} and others have other bytes than before, although their names have a fingerprint; no more of them are named.`,
      );
      return;
    }
    tell(
      `The mount at /${at}: ${path} has other bytes than ${where}, although its name has a fingerprint; visitors who have the old ones may keep them for as long as they were told. It is revalidated from now on; let the build make the name from the content.`,
    );
  }

  // Many may ask for one folder at a time.
  #know(source: FileSource, folder: string): Promise<KnownFolder> {
    const key = `${this.#options.at}\0${this.#numberOf(source)}\0${folder}`;
    const before = this.#folders.use(key);
    const known = before === undefined ? this.#read(source, folder) : this.#renew(before, source, folder);
    if (known !== before) this.#folders.set(key, known);
    return known;
  }

  #numberOf(source: FileSource): number {
    const number = this.#sources.get(source) ?? ++this.#count;
    this.#sources.set(source, number);
    return number;
  }

  async #renew(before: Promise<KnownFolder>, source: FileSource, folder: string): Promise<KnownFolder> {
    const known = await before;
    return known.proof.holds() ? known : this.#read(source, folder, known);
  }

  async #read(source: FileSource, folder: string, before?: KnownFolder): Promise<KnownFolder> {
    const startedMs = Date.now();
    const looks: (Look | undefined)[] = [];
    const { list } = this.#options;
    const lists: NameList[] = list === undefined ? [] : [list];
    for (const one of await Promise.all(OWN_LISTS.map((path) => readOwnList(source, path)))) {
      looks.push(one.look);
      if (one.list !== undefined) lists.push(one.list);
    }
    const { shapes, version, look } = await readFolder(source, folder, before);
    const isListed = lists.some(({ folders }) => folders.has(folder));
    looks.push(look);
    const isComplete = looks.every((one) => one !== undefined);
    const proof = new Proof(startedMs, isComplete ? (looks as Look[]) : undefined, version);
    return { lists, shapes, isListed, proof };
  }
}

/** That a folder has the names that it had, and the build's lists are what they were. */
class Proof implements Look {
  readonly changedMs: number;
  readonly version: string | undefined;
  readonly #looks: readonly Look[] | undefined;
  readonly #knownMs: number;

  /** Without looks it stands for a while. */
  constructor(nowMs: number, looks: readonly Look[] | undefined, version: string | undefined) {
    this.#knownMs = nowMs;
    this.#looks = looks;
    this.version = version;
    this.changedMs = looks === undefined ? nowMs : Math.max(...looks.map(({ changedMs }) => changedMs));
  }

  holds(): boolean {
    if (this.#looks !== undefined) return this.#looks.every((one) => one.holds());
    // A clock that was put back proves nothing.
    return Math.abs(Date.now() - this.#knownMs) < KNOWN_MS;
  }
}

async function readOwnList(source: FileSource, path: string): Promise<KnownList> {
  const found = await source.open(path);
  const look = source.look?.(path, found);
  if (found.kind === "directory") found.directory.close();
  if (found.kind !== "file") return { list: undefined, look };
  try {
    const { sizeBytes } = found.file.metadata;
    if (sizeBytes > LIST_AT_MOST) return { list: undefined, look };
    const text = decodeUtf8(await found.file.read(0, sizeBytes));
    const list = readNameList(path, text);
    return { list: "problem" in list ? undefined : list, look };
  } catch {
    return { list: undefined, look };
  } finally {
    found.file.close();
  }
}

type ReadFolder = Pick<KnownFolder, "shapes"> & { version: string | undefined; look: Look | undefined };

async function readFolder(source: FileSource, folder: string, before?: KnownFolder): Promise<ReadFolder> {
  const found: Found = await source.open(folder);
  if (found.kind === "file") found.file.close();
  if (found.kind !== "directory") return { shapes: undefined, version: undefined, look: undefined };
  const { directory } = found;
  try {
    const { version } = directory;
    const look = version === undefined ? undefined : source.lookInside?.(folder, version);
    if (before !== undefined && version !== undefined && before.proof.version === version)
      return { shapes: before.shapes, version, look };
    return { shapes: await readShapes(directory), version, look };
  } finally {
    directory.close();
  }
}

async function readShapes(directory: OpenedDirectory): Promise<FolderShapes | undefined> {
  const entries = await directory.list(NAMES_AT_MOST);
  if ("kind" in entries) return undefined;
  const names = entries.filter(({ kind }) => kind !== "directory").map(({ name }) => name);
  return new FolderShapes(names.filter((name) => !isDocument(name)));
}

function judgeDocument(path: string): JudgedName {
  const judged = verdict("document", "a document is never fingerprinted: links lead to it by its name");
  // Nobody wonders about a plain name.
  const isPlain = readTokens(path.slice(path.lastIndexOf("/") + 1)).length === 0;
  return isPlain ? { ...judged, explain: (fields) => fields } : judged;
}

const NO_ENDING = "the name does not look fingerprinted: it does not end in a digest of the content";
const UNLIKE_OTHERS = "the name does not look fingerprinted: no other name of the folder ends like it";

const SEALED: Readonly<Record<NameCode, string>> = {
  build: "the build said so when it was sealed",
  configuration: "fingerprints of the configuration named it when it was sealed",
  folder: "it ended like the others of its folder when it was sealed",
  name: "its name leaves no doubt",
  document: "it is a document: links lead to it by its name",
  changed: "the name stood for other bytes when it was sealed",
  "no-ending": NO_ENDING,
  "unlike-others": UNLIKE_OTHERS,
};

const FINGERPRINTED = new Set<NameCode>(["build", "configuration", "folder", "name"]);

function verdict(by: NameCode, text: string): JudgedName {
  const explain = (fields: Fields): Fields =>
    Fields.of(
      ...[...fields].map(
        ({ name, value, because, rule }) => [name, value, `${because}; ${text}`, rule] as const,
      ),
    );
  return { verdict: { fingerprinted: FINGERPRINTED.has(by), by, text }, explain };
}

function describeShape({ separator, length, alphabet, count }: Shape): string {
  const behind = separator === "" ? "are" : `end in "${separator}" and`;
  return `${count} names of its folder ${behind} ${length} characters of ${alphabet}`;
}
