import { isAddressable } from "../request/target.js";
import { type Mount, withheldName } from "../rules/mount.js";
import type { PrefixTree } from "../rules/prefix-tree.js";
import type { EntryKind, EntryMetadata } from "../source.js";
import { joinPath, sitePath } from "../text/path.js";
import { readInPlace } from "./read-directory.js";

/** What visitors get of a name in a folder. */
export type Verdict =
  | "offered"
  /** By a pattern, or for a leading dot: its own name, or where it leads. */
  | "withheld"
  /** No address can name it. */
  | "no address"
  /** Another mount answers there. */
  | "elsewhere"
  /** A link that leads nowhere, in a circle, or where it may not. */
  | "leads nowhere"
  | "unreadable"
  /** Neither a file nor a directory. */
  | "special";

/** A name in a folder of a mount, with what visitors get of it. */
export interface JudgedName {
  readonly name: string;
  /** Inside the mount, without a slash at either end. */
  readonly path: string;
  readonly verdict: Verdict;
  /** Of what is withheld: by which pattern, in words. */
  readonly by?: string | undefined;
  /** As far as it is known without asking about the name, where nobody wants more. */
  readonly kind: EntryKind | undefined;
  /** Undefined where it was not asked for, or nothing is there. */
  readonly metadata?: EntryMetadata | undefined;
  /** Where it really lies, if it is reached through a symbolic link: rules that withhold go by that name, too. */
  readonly liesAt?: string | undefined;
}

export interface JudgeOptions {
  /** The mounts of the site, where what another one answers counts as its. */
  readonly mounts?: PrefixTree<Mount>;
  /** What is asked about each name: all (default), only what tells files from directories, or nothing. */
  readonly asks?: "all" | "kinds" | "nothing";
  /** No more names are read. */
  readonly atMost?: number;
  /** Of no more names is anything asked. */
  readonly statsAtMost?: number;
  /** Withheld folders are read, and withheld names are asked about: for the developer's eyes. */
  readonly seesWithheld?: boolean;
  /** Gives what to wait for when others waited long enough: a folder may have very many entries. */
  readonly rest?: (() => Promise<void> | undefined) | undefined;
}

/**
 * Every name in a folder of a mount, in their order, each with its verdict: the one place that knows which names visitors get. Undefined
 * where the folder cannot be read, or may not be shown.
 */
export async function judgeNames(
  mount: Mount,
  folder: string,
  options: JudgeOptions = {},
): Promise<readonly JudgedName[] | undefined> {
  const { asks = "all", statsAtMost = Number.POSITIVE_INFINITY, seesWithheld = false } = options;
  return readInPlace(
    mount,
    folder,
    async (directory, real) => {
      const entries = await directory.list(options.atMost);
      if ("kind" in entries) return undefined;
      const judged: JudgedName[] = [];
      for (const { name, kind } of [...entries].sort((a, b) => (a.name < b.name ? -1 : 1))) {
        await options.rest?.();
        const path = joinPath(folder, name);
        const ofName = judgeByName(mount, { name, path, real }, options);
        const isOf = judged.length < statsAtMost && (ofName === undefined || seesWithheld);
        const isAsked = isOf && !isEnough(kind, asks);
        const metadata = isAsked ? await directory.stat(name) : undefined;
        const one = { name, path, kind: isAsked ? metadata?.kind : kind, metadata };
        // Where a link leads is only known if it was asked for.
        const ofKind = ofName ?? judgeByKind(mount, one, isAsked || kind !== undefined);
        const liesAt = metadata?.realPath ?? (real === folder ? undefined : joinPath(real, name));
        judged.push({ ...one, ...ofKind, liesAt });
      }
      return judged;
    },
    { seesWithheld },
  );
}

const isEnough = (kind: EntryKind | undefined, asks: JudgeOptions["asks"]): boolean =>
  asks === "nothing" || kind === "directory" || kind === "special" || (asks === "kinds" && kind === "file");

function judgeByName(
  mount: Mount,
  { name, path, real }: { readonly name: string; readonly path: string; readonly real: string },
  { mounts }: JudgeOptions,
): Pick<JudgedName, "verdict" | "by"> | undefined {
  const by = withheldName(mount, path, joinPath(real, name));
  if (by !== undefined) return { verdict: "withheld", by };
  if (isElsewhere(mounts, mount, path)) return { verdict: "elsewhere" };
  // A name that is not UTF-8 is read with another one's letters.
  return isAddressable(name) && !name.includes("\ufffd") ? undefined : { verdict: "no address" };
}

function isElsewhere(mounts: JudgeOptions["mounts"], mount: Mount, path: string): boolean {
  return mounts !== undefined && mounts.find(sitePath(mount, path))?.value !== mount;
}

function judgeByKind(
  mount: Mount,
  { path, kind, metadata }: Pick<JudgedName, "path" | "kind" | "metadata">,
  isKnown: boolean,
): Pick<JudgedName, "verdict" | "by"> {
  const realPath = metadata?.realPath;
  const by = realPath === undefined ? undefined : withheldName(mount, path, realPath);
  if (by !== undefined) return { verdict: "withheld", by };
  return { verdict: isKnown ? verdictOf(kind) : "offered" };
}

function verdictOf(kind: EntryKind | undefined): Verdict {
  switch (kind) {
    case "file":
    case "directory":
      return "offered";
    case "special":
    case "unreadable":
      return kind;
    default:
      return "leads nowhere";
  }
}

/** A file or directory of a mount that may be served, by its path inside it. */
export interface WalkedEntry {
  /** Without a slash at either end; `""` is the mount's own folder. */
  readonly path: string;
  readonly kind: "file" | "directory";
  /** Bytes; 0 for a directory. */
  readonly sizeBytes: number;
  readonly liesAt?: string | undefined;
}

export interface WalkOptions extends Pick<JudgeOptions, "rest" | "mounts" | "atMost"> {
  /** False where nobody asks for sizes (default true): they are 0 then, and nothing is asked about a file. */
  readonly sizes?: boolean;
}

/**
 * Every file and directory of a mount that may be served, in the order of their names, folders before what is in them. No file is
 * opened.
 */
export async function* walkMount(mount: Mount, options: WalkOptions = {}): AsyncGenerator<WalkedEntry> {
  const { sizes = true } = options;
  for await (const { path, names } of walkFolders(mount, { ...options, asks: sizes ? "all" : "kinds" })) {
    yield { path, kind: "directory", sizeBytes: 0 };
    for (const one of names ?? [])
      if (one.verdict === "offered" && one.kind === "file")
        yield { path: one.path, kind: "file", sizeBytes: one.metadata?.sizeBytes ?? 0, liesAt: one.liesAt };
  }
}

/** A folder of a mount with all names in it; undefined names for one that cannot be read. */
export interface WalkedFolder {
  readonly path: string;
  readonly names: readonly JudgedName[] | undefined;
}

/**
 * Every folder of a mount that visitors can reach, each before what is in it. `enters` leaves out a folder with what is below it. A link
 * to a folder that was walked is not walked again.
 */
export async function* walkFolders(
  mount: Mount,
  options: JudgeOptions & { readonly enters?: (one: JudgedName) => boolean } = {},
): AsyncGenerator<WalkedFolder> {
  const { enters = () => true } = options;
  const visited = new Set<string>();
  const isNew = ({ metadata }: JudgedName): boolean => {
    const realPath = metadata?.realPath;
    if (realPath === undefined) return true;
    if (visited.has(realPath)) return false;
    visited.add(realPath);
    return true;
  };
  const folders = isElsewhere(options.mounts, mount, "") ? [] : [""];
  for (let path = folders.pop(); path !== undefined; path = folders.pop()) {
    const names = await judgeNames(mount, path, options);
    yield { path, names };
    const inside = (names ?? []).filter(
      (one) => one.verdict === "offered" && one.kind === "directory" && isNew(one) && enters(one),
    );
    folders.push(...inside.map((one) => one.path).reverse());
  }
}
