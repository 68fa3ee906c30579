import type { Picture } from "../../reading/contents/picture.js";
import type { Reference } from "../../reading/pages/references.js";
import type { Anchors } from "../links/anchors.js";
import type { Suspicion } from "./suspect.js";

/** What a survey has to know of a file when it was read: data alone, which one thread can hand to another. */
export interface FileNotes {
  readonly suspicion?: Suspicion;
  /** Of a picture or a film that is large enough to matter. */
  readonly picture?: PictureNote;
  readonly names?: Names;
}

export interface PictureNote {
  /** Undefined where its measures were not found. */
  readonly picture: Picture | undefined;
  readonly isStill: boolean;
}

/** What a file may name others in. */
export type Form = "page" | "style" | "script" | "manifest" | "sitemap";

/** The other files that a file names. */
export interface Names {
  readonly form: Form;
  readonly references: readonly Reference[];
  /** Names of modules without an address that it imports. */
  readonly bare: readonly string[];
  /** Names that the import maps of a page explain. */
  readonly mapped: readonly string[];
  /** True for a page with a script. */
  readonly hasScripts: boolean;
  /** Of an HTML page. */
  readonly anchors: Anchors | undefined;
}
