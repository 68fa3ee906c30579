import { createHash } from "node:crypto";
import { mkdirSync, renameSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { brotliCompressSync, constants } from "node:zlib";

/** Sizes of the files that change, in bytes: what is answered in one write, in some, and in many. */
const SIZES = [0, 900, 16_000, 300_000, 5_000_000];
const COUNT = 40;
/** Every so many-th file lies there in a coding, too. */
const CODED = 4;

/** The content of a version: it can be told from its first line alone, so that a mixture of two shows. */
function makeContent(name, version, size) {
  const line = `${name} in version ${version} of Larkholm's records\n`;
  return Buffer.from(line.repeat(Math.ceil(size / line.length)).slice(0, size));
}

/** Files that are exchanged for new versions, and what each of them has ever been. */
export class Versions {
  #folder;
  #digests = new Map();
  #version = 0;
  names = [];

  constructor(folder) {
    this.#folder = folder;
    for (let index = 0; index < COUNT; index++) {
      const name = `records/${index}.txt`;
      this.names.push(name);
      this.#digests.set(name, new Set());
      this.exchange(index);
    }
    for (let index = 0; index < 3000; index++)
      this.#put(`archive/${index % 30}/sighting ${index}.txt`, `sighting ${index}\n`);
    this.#put("404.html", "<h1>Not here</h1>");
    this.#put("index.html", "<h1>Larkholm</h1>");
  }

  /** Puts another version of a file in its place, in one step. */
  exchange(index) {
    const name = this.names[index];
    const size = SIZES[index % SIZES.length];
    const content = makeContent(name, ++this.#version, Math.max(0, size - (this.#version % 7)));
    this.#digests.get(name).add(digest(content));
    if (index % CODED === 0) {
      const params = { [constants.BROTLI_PARAM_QUALITY]: 1 };
      this.#put(`${name}.br`, brotliCompressSync(content, { params }));
    }
    this.#put(name, content);
  }

  /** True when these bytes were ever the file's. */
  existed(name, bytes) {
    return this.#digests.get(name).has(digest(bytes));
  }

  #put(name, content) {
    const path = join(this.#folder, name);
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(`${path}.next`, content);
    renameSync(`${path}.next`, path);
  }
}

const digest = (bytes) => createHash("sha256").update(bytes).digest("base64");
