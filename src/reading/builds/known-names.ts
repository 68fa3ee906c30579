import { Fields } from "../../core/fields/fields.js";
import type { Memory } from "../../core/memory/memory.js";
import type { Store } from "../../core/memory/store.js";
import {
  FINGERPRINTED,
  type FileBefore,
  type JudgedFile,
  type JudgedName,
  type Names,
} from "../../core/rules/names.js";
import type { FileSource, NameCode } from "../../core/source.js";
import type { NameList } from "./lists.js";
import { isDocument, withoutCompanion } from "./named-after.js";
import { findInEarlier, isOther } from "./other-bytes.js";
import { Proof, readFolder, readOwnList } from "./proved.js";
import { type FolderShapes, findPlainToken, type Shape } from "./shapes.js";
import { readTokens } from "./token.js";

/** Where the plugin for Vite writes the names that it made, and Vite its manifest: in folders that no visitor gets. */
export const OWN_LISTS = [".epistyle/fingerprints.txt", ".vite/manifest.json"] as const;

/** How many names that stood for other bytes are told one by one. */
const TOLD_AT_MOST = 10;

const FOLDERS = {
  name: "how folders name their files",
  bound: 4096,
  unit: "entries",
  proof: "the folder's own inode and times, and those of the build's lists, each tenth of a second",
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

/** The lists of a source, read once for all of its folders. */
interface KnownLists {
  readonly lists: readonly NameList[];
  readonly proof: Proof;
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
  readonly #lists = new WeakMap<FileSource, Promise<KnownLists>>();
  readonly #sources = new WeakMap<FileSource, number>();
  readonly #problems = new Set<string>();
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
      return verdict("configuration", "`fingerprints` in the configuration names it");
    const slash = path.lastIndexOf("/");
    const folder = await this.#know(source, path.slice(0, Math.max(0, slash)));
    const name = path.slice(slash + 1);
    // A name that leaves no doubt is one whatever happens beside it.
    const isPlain = findPlainToken(name) !== undefined;
    const proof = isPlain ? undefined : folder.proof;
    const list = folder.lists.find(({ has }) => has(path) || has(plain));
    if (list !== undefined) return { ...verdict("build", `the build says so in ${list.name}`), proof };
    // A build that names some files of a folder names all that it made there.
    const shape = folder.isListed ? undefined : folder.shapes?.find(name);
    if (shape !== undefined) return { ...verdict("folder", describeShape(shape)), proof };
    if (isPlain) return verdict("name", PLAIN);
    return readTokens(name).length === 0
      ? { ...verdict("no-ending", NO_ENDING), proof }
      : { ...verdict("unlike-others", UNLIKE_OTHERS), proof };
  }

  async judgeFile(
    judged: JudgedFile,
    before: FileBefore | undefined,
    digest: string | undefined,
  ): Promise<JudgedName> {
    const { path } = judged;
    const { source } = judged.mount;
    const name = await this.judge(source, path);
    if (!name.verdict.fingerprinted) return name;
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
    const { lists } = await this.#listsOf(source);
    return lists.some(({ has }) => has(path));
  }

  async whyNotOfEarlier(source: FileSource, path: string): Promise<string | undefined> {
    const { fingerprinted, by, text } = (await this.judge(source, path)).verdict;
    // One that stood for other bytes is still what a page asks for.
    return fingerprinted || by === "changed" ? undefined : text;
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

  #tellProblem(list: string, problem: string): void {
    const { at, tell } = this.#options;
    const text = `The mount at /${at}: ${list} is left out, because ${problem}; build again.`;
    if (this.#problems.has(text)) return;
    if (this.#problems.size >= TOLD_AT_MOST) return;
    this.#problems.add(text);
    tell(text);
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
    const nowMs = Date.now();
    const { lists, proof: ofLists } = await this.#listsOf(source);
    const { shapes, version, look } = await readFolder(source, folder, before);
    const isListed = lists.some(({ folders }) => folders.has(folder));
    return { lists, shapes, isListed, proof: new Proof(nowMs, [ofLists, look], version) };
  }

  async #listsOf(source: FileSource): Promise<KnownLists> {
    const before = this.#lists.get(source);
    if (before !== undefined && (await before).proof.holds()) return before;
    const reading = this.#readLists(source);
    this.#lists.set(source, reading);
    return reading;
  }

  async #readLists(source: FileSource): Promise<KnownLists> {
    const nowMs = Date.now();
    const own = await Promise.all(OWN_LISTS.map((path) => readOwnList(source, path)));
    for (const [index, { problem }] of own.entries())
      if (problem !== undefined) this.#tellProblem(OWN_LISTS[index]!, problem);
    const lists = [this.#options.list, ...own.map(({ list }) => list)].filter((list) => list !== undefined);
    return {
      lists,
      proof: new Proof(
        nowMs,
        own.map(({ look }) => look),
        undefined,
      ),
    };
  }
}

function judgeDocument(path: string): JudgedName {
  const judged = verdict("document", DOCUMENT);
  // Nobody wonders about a plain name.
  const isPlain = readTokens(path.slice(path.lastIndexOf("/") + 1)).length === 0;
  return isPlain ? { ...judged, explain: (fields) => fields } : judged;
}

const DOCUMENT = "a document is never fingerprinted: links lead to it by its name";
const PLAIN = "its name leaves no doubt";
const NO_ENDING =
  "the name does not look fingerprinted: it does not end in a digest of the content (if it changes with the content, name it in fingerprints)";
const UNLIKE_OTHERS =
  "the name does not look fingerprinted: no other name of the folder ends like it (a build's list, or fingerprints, would say that it is)";

const SEALED: Readonly<Record<NameCode, string>> = {
  build: "the build said so when it was sealed",
  configuration: "`fingerprints` in the configuration named it when it was sealed",
  folder: "it ended like the others of its folder when it was sealed",
  name: PLAIN,
  document: DOCUMENT,
  changed: "the name stood for other bytes when it was sealed",
  "no-ending": NO_ENDING,
  "unlike-others": UNLIKE_OTHERS,
};

function verdict(by: NameCode, text: string): JudgedName {
  const explain = (fields: Fields): Fields =>
    Fields.of(
      ...[...fields].map(
        ({ name, value, because, rule }) => [name, value, `${because}; ${text}`, rule] as const,
      ),
    );
  return {
    verdict: { fingerprinted: (FINGERPRINTED as readonly NameCode[]).includes(by), by, text },
    explain,
  };
}

function describeShape({ separator, length, alphabet, count }: Shape): string {
  const behind = separator === "" ? "are" : `end in "${separator}" and`;
  return `${count} names of its folder ${behind} ${length} characters of ${alphabet}`;
}
