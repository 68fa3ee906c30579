import { formatSize } from "../core/text/size.js";
import type { PictureNote } from "./examine/notes.js";
import type { Targets } from "./links/targets.js";
import { addressOf, type SurveyContext, type SurveyedFile } from "./survey-context.js";

/** A picture with this many times the pixels shown is larger than any screen needs. */
const TOO_MANY_PIXELS = 3;
const LARGE_PICTURE = 100 * 1024;
/** A picture that pages load is not larger without reason, in bytes. */
export const PICTURE_BUDGET = 1_000_000;

/** A smaller picture costs nobody anything that matters, with this budget, in bytes. */
export const pictureFrom = (budgetBytes: number): number => Math.min(LARGE_PICTURE, budgetBytes);

/** What pictures and films cost. */
export class Pictures {
  readonly #context: SurveyContext;
  readonly #budget: number;
  readonly #known: (PictureNote & { readonly file: SurveyedFile })[] = [];

  constructor(context: SurveyContext, budgetBytes: number) {
    this.#context = context;
    this.#budget = budgetBytes;
  }

  add(file: SurveyedFile, note: PictureNote): void {
    this.#known.push({ file, ...note });
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
