import { decideKind } from "../../reading/contents/kinds.js";
import { readPicture } from "../../reading/contents/picture.js";
import { readPictureNotes } from "../../reading/contents/picture-notes.js";
import { checkServiceWorker } from "../freshness.js";
import type { SurveyContext, SurveyedFile } from "../survey-context.js";
import { checkContent } from "./contents.js";
import { readNames } from "./names.js";
import type { FileNotes, Names, PictureNote } from "./notes.js";
import { checkPolicy } from "./policy.js";
import { type ReadFile, readFile } from "./read-file.js";
import { checkInlineMap, checkSourceMap } from "./source-map.js";
import { suspect } from "./suspect.js";

/** What is looked for in files. */
export interface Wanted {
  /** True where a whole project is served: only what should not be there is looked for. */
  readonly isProject: boolean;
  /** The measures of a smaller picture do not matter, in bytes. */
  readonly pictureFrom: number;
}

/** Reads a file, once, reports what is wrong with it alone, and notes what matters to others. Undefined where it cannot be read. */
export async function examine(
  context: SurveyContext,
  file: SurveyedFile,
  { isProject, pictureFrom }: Wanted,
): Promise<FileNotes | undefined> {
  const read = await readFile(context, file);
  if (read === undefined) return undefined;
  const suspicion = suspect(read);
  // Of what should not be there it does not matter how it is made, or what it links to.
  if (suspicion !== undefined) return { suspicion };
  if (isProject) return {};
  await checkPolicy(context, read);
  const picture = checkContent(context, read) ? notePicture(context, read, pictureFrom) : undefined;
  checkServiceWorker(context, read);
  const names = await readText(context, read);
  return { ...(picture !== undefined && { picture }), ...(names !== undefined && { names }) };
}

async function readText(
  context: SurveyContext,
  { file, mediaType, start, text }: ReadFile,
): Promise<Names | undefined> {
  if (mediaType === undefined || start.length === 0 || text === undefined) return undefined;
  if (file.path.endsWith(".map")) checkSourceMap(context, file, text);
  if (/(?:javascript|css)$/.test(mediaType)) checkInlineMap(context, file, text);
  return readNames(context, file, { mediaType, text });
}

// Exif 2.32 §4.6.6, §4.6.4.
function notePicture(
  context: SurveyContext,
  { file, mediaType = "", start }: ReadFile,
  fromBytes: number,
): PictureNote | undefined {
  if (!/^(?:image|video)\//.test(mediaType)) return undefined;
  const { hasPlace = false, owner } = readPictureNotes(start) ?? {};
  const fix = "Save it again without its metadata, unless that is meant for everybody.";
  if (hasPlace) context.report("picture-tells-place", file, "Its metadata says where it was taken.", fix);
  if (owner !== undefined)
    context.report("picture-names-owner", file, `Its metadata names ${JSON.stringify(owner)}.`, fix);
  if (file.sizeBytes < fromBytes) return undefined;
  return { picture: readPicture(start), isStill: decideKind(mediaType) === "picture" };
}
