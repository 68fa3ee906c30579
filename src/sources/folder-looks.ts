import { dirname } from "node:path";
import type { Memory } from "../core/memory/memory.js";
import type { Store } from "../core/memory/store.js";
import type { Found, Look, MissingCause } from "../core/source.js";
import type { KnownPath } from "./known-path.js";
import { AbsentLook, AllLooks, KnownLook, NamesLook, PlaceLook } from "./looks.js";

const PLACES = {
  name: "places of folders",
  bound: 4096,
  unit: "entries",
  proof: "each answer that depends on one looks at it again",
} as const;

export type Places = Store<string, PlaceLook>;

export function openPlaces(memory: Memory): Places {
  return memory.open(PLACES);
}

/** A name that is missing for another reason is revalidated each time. */
const STAYS_MISSING = new Set<MissingCause>(["no-such-file", "not-a-directory"]);

/** What the looks of a folder are made with. */
export interface FolderLooksOptions {
  readonly known: Store<string, KnownPath>;
  readonly places: Places;
  /** The link that led to the folder; it counts only while it still leads there. */
  readonly link: string | undefined;
}

/** Makes the looks at names of a folder. They are shared, so that one look in a turn of the event loop serves all answers. */
export class FolderLooks {
  readonly #root: string;
  readonly #known: Store<string, KnownPath>;
  readonly #places: Places;
  readonly #rootLook: PlaceLook | undefined;

  constructor(root: string, { known, places, link }: FolderLooksOptions) {
    this.#root = root;
    this.#known = known;
    this.#places = places;
    this.#rootLook = link === undefined ? undefined : new PlaceLook(link, root);
  }

  /** How it is told that a name still means what was found; undefined where that cannot be told by a look. */
  lookAt(path: string, found: Found): Look | undefined {
    return this.#alsoAtRoot(this.#lookAt(path, found));
  }

  /** How it is told that a directory has the names that it had when this was its version. */
  lookInside(path: string, version: string): Look {
    return this.#alsoAtRoot(new NamesLook(this.#fullOf(path), version))!;
  }

  #alsoAtRoot(look: Look | undefined): Look | undefined {
    return look === undefined || this.#rootLook === undefined ? look : new AllLooks([this.#rootLook, look]);
  }

  #fullOf(path: string): string {
    return path === "" ? this.#root : `${this.#root}/${path}`;
  }

  #lookAt(path: string, found: Found): Look | undefined {
    const full = this.#fullOf(path);
    if (found.kind === "missing") return STAYS_MISSING.has(found.because) ? new AbsentLook(full) : undefined;
    const entry = this.#known.get(path);
    if (entry === undefined || (found.kind !== "file" && found.kind !== "directory")) return undefined;
    if (found.kind === "file" && found.file.metadata !== entry.metadata) return undefined;
    // It was found where it does not lie any more.
    if (found.realPath !== entry.location.realPath) return undefined;
    entry.look ??= new KnownLook(full, entry, this.#placeOf(full, entry.location.real));
    return entry.look;
  }

  // Where a plain name lies is told by its folder, and folders are few.
  #placeOf(full: string, real: string): PlaceLook {
    const isPlain = full === real && full !== this.#root;
    const path = isPlain ? dirname(full) : full;
    const expected = isPlain ? path : real;
    const place = this.#places.get(path);
    if (place?.real === expected) return place;
    const made = new PlaceLook(path, expected);
    this.#places.set(path, made);
    return made;
  }
}
