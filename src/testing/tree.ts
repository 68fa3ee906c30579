import { mkdir, mkdtemp, rm, symlink, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { dirname, join, normalize } from "node:path";

/** Files by their path: text, bytes, or a symbolic link and where it leads. A path that ends with a slash is an empty folder. */
export type Tree = Readonly<Record<string, string | Uint8Array | { readonly link: string }>>;

/** A folder of files that exists while a test needs it. */
export interface TemporaryTree {
  /** Absolute path of the folder. */
  readonly folder: string;
  /** Adds files, or writes them again. */
  write(tree: Tree): Promise<void>;
  /** Takes a file or a folder away. */
  remove(path: string): Promise<void>;
  /** Deletes the folder. */
  close(): Promise<void>;
  [Symbol.asyncDispose](): Promise<void>;
}

/**
 * Makes a folder of files in the system's temporary folder: `{ "index.html": "<h1>…", "images/plate.svg": "<svg …" }`. Rejects
 * with a RangeError for a path that leads out of it.
 */
export async function makeTemporaryTree(tree: Tree): Promise<TemporaryTree> {
  if (typeof tree !== "object" || tree === null || Array.isArray(tree))
    throw new TypeError(
      'makeTemporaryTree: found no files; write makeTemporaryTree({ "index.html": "<h1>…</h1>" }).',
    );
  const folder = await mkdtemp(join(tmpdir(), "epistyle-"));
  const close = (): Promise<void> => rm(folder, { recursive: true, force: true });
  const write = async (more: Tree): Promise<void> => {
    for (const [path, content] of Object.entries(more)) {
      const full = locate(folder, path);
      await mkdir(path.endsWith("/") ? full : dirname(full), { recursive: true });
      if (path.endsWith("/")) continue;
      if (content === undefined || content === null)
        throw new TypeError(
          `makeTemporaryTree: found no content for ${JSON.stringify(path)}; write a text, a Uint8Array, or { link: "index.html" }.`,
        );
      if (typeof content === "object" && "link" in content) await symlink(content.link, full);
      else await writeFile(full, content);
    }
  };
  try {
    await write(tree);
  } catch (error) {
    await close();
    throw error;
  }
  return {
    folder,
    write,
    remove: (path) => rm(locate(folder, path), { recursive: true }),
    close,
    // Node 20 and later know the symbol; older type libraries do not.
    [Symbol.asyncDispose]: close,
  };
}

function locate(folder: string, path: string): string {
  const full = normalize(join(folder, path));
  if (!full.startsWith(join(folder, "/")))
    throw new RangeError(
      `The path of a file: found ${JSON.stringify(path)}, which leads out of the tree; write "images/plate.svg".`,
    );
  return full;
}
