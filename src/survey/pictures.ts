import { formatSize } from "../core/text/size.js";
import { decideKind } from "../reading/contents/kinds.js";
import { type Picture, readPicture } from "../reading/contents/picture.js";
import { type PictureNotes, readPictureNotes } from "../reading/contents/picture-notes.js";
import type { Targets } from "./links/targets.js";
import type { ReadFile } from "./read-file.js";
import { addressOf, type SurveyContext, type SurveyedFile } from "./survey-context.js";

/** A picture with so many times the pixels that are shown is larger than any screen needs. */
const TOO_MANY_PIXELS = 3;
const LARGE_PICTURE = 100 * 1024;
/** A picture that pages load is not larger without reason, in bytes. */
export const PICTURE_BUDGET = 1024 * 1024;

/** What pictures and films cost, and what they tell about who made them. */
export class Pictures {
  readonly #context: SurveyContext;
  readonly #budget: number;
  readonly #known: {
    readonly file: SurveyedFile;
    readonly picture: Picture | undefined;
    readonly isStill: boolean;
  }[] = [];

  constructor(context: SurveyContext, budgetBytes: number) {
    this.#context = context;
    this.#budget = budgetBytes;
  }

  add({ file, mediaType = "", start }: ReadFile): void {
    if (!/^(?:image|video)\//.test(mediaType)) return;
    const notes = readPictureNotes(start);
    if (notes !== undefined) this.#reportNotes(file, notes);
    if (file.sizeBytes >= Math.min(LARGE_PICTURE, this.#budget))
      this.#known.push({ file, picture: readPicture(start), isStill: decideKind(mediaType) === "picture" });
  }

  // Exif 2.32 §4.6.6, §4.6.4.
  #reportNotes(file: SurveyedFile, { hasPlace, owner }: PictureNotes): void {
    const fix = "Save it again without its metadata, unless that is meant for everybody.";
    if (hasPlace)
      this.#context.report("picture-tells-place", file, "Its metadata says where it was taken.", fix);
    if (owner !== undefined)
      this.#context.report("picture-names-owner", file, `Its metadata names ${JSON.stringify(owner)}.`, fix);
  }

  /** Called when all pages are read. */
  report(targets: Targets): void {
    for (const { file, picture, isStill } of this.#known) {
      const width = targets.shown.get(addressOf(file.mount, file.path));
      if (picture !== undefined && width !== undefined && picture.width >= width * TOO_MANY_PIXELS)
        this.#context.report(
          "picture-larger-than-shown",
          file,
          `It is ${picture.width} pixels wide, and no page shows it wider than ${width}.`,
          `Save it ${width * 2} pixels wide: enough for screens of double density.`,
        );
      else if (file.sizeBytes > this.#budget && isStill && targets.isLoaded(file))
        this.#context.report(
          "picture-over-budget",
          file,
          `It has ${formatSize(file.sizeBytes)}, and a page loads it: more than ${formatSize(this.#budget)}.`,
          "Save it smaller, or in a newer format such as WebP or AVIF.",
        );
    }
  }
}
