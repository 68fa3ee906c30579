import { readCharset } from "../core/media-types/charset.js";
import { decideTypeByContent, HEADER_BYTES } from "../core/media-types/content.js";
import { decideMediaType, takesCharset } from "../core/media-types/media-type.js";
import { selectRules } from "../core/rules/mount.js";
import { writeCommand } from "../core/text/command.js";
import { formatCount } from "../core/text/size.js";
import { findFlaw } from "../reading/contents/formats.js";
import { decideKind, fits, isPageInstead } from "../reading/contents/kinds.js";
import { PICTURE_HEAD, type Picture, readPicture } from "../reading/contents/picture.js";
import type { SurveyContext, SurveyedFile } from "./survey-context.js";

/** So much of a file tells what it is, in bytes. */
export const START_BYTES = 4096;
/** A longer text is not read whole, in bytes. */
export const TEXT_UP_TO = 2 * 1024 * 1024;

/** What a file's name says it is. */
export function typeByName({ mount, path }: SurveyedFile): string | undefined {
  return decideMediaType(path, selectRules(mount, path).mediaTypes)?.type;
}

/** How much of a file is read from its start: all of a text that may name others or must be in its charset. */
export function wantedStart({ sizeBytes }: SurveyedFile, mediaType: string | undefined): number {
  if (/^(?:image\/(?:jpeg|png|gif|webp)|video\/(?:mp4|quicktime))$/.test(mediaType ?? ""))
    return Math.min(sizeBytes, PICTURE_HEAD);
  const isText = mediaType !== undefined && (takesCharset(mediaType) || /json$/.test(mediaType));
  return Math.min(sizeBytes, isText && sizeBytes <= TEXT_UP_TO ? sizeBytes : START_BYTES);
}

/** A file as far as it was read. */
export interface ReadFile {
  readonly file: SurveyedFile;
  readonly mediaType: string | undefined;
  /** From its first byte on. */
  readonly start: Uint8Array;
  /** Its last bytes. */
  readonly tail: Uint8Array;
}

/** Holds a file's content against its name; gives the size of a picture. */
export function checkContent(context: SurveyContext, read: ReadFile): Picture | undefined {
  const { file, mediaType, start, tail } = read;
  if (file.sizeBytes === 0) {
    reportEmpty(context, file, mediaType);
    return undefined;
  }
  if (mediaType === undefined) {
    reportUnknown(context, read);
    return undefined;
  }
  const content = decideTypeByContent(start.subarray(0, HEADER_BYTES));
  if (!fits(mediaType, content) || isPageInstead(mediaType, toText(start.subarray(0, 256)))) {
    context.report(
      "content-contradicts-name",
      file,
      `Its name says ${mediaType}, but its content is ${describeContent(content, mediaType)}.`,
      "Give it the correct extension, or add its type to mediaTypes.",
    );
    return undefined;
  }
  const flaw = findFlaw(mediaType, {
    head: start,
    tail: tail.length > 0 ? tail : start,
    sizeBytes: file.sizeBytes,
  });
  if (flaw?.kind === "cut")
    context.report(
      /^image\//.test(mediaType) ? "cut-picture" : "cut-file",
      file,
      `Its ${formatCount(file.sizeBytes)} bytes end too early: ${flaw.text}.`,
      "Copy it again from its source.",
    );
  checkCharset(context, read);
  return /^(?:image|video)\//.test(mediaType) ? readPicture(start) : undefined;
}

/** A file of these that is empty shows as something that is broken. */
const NEVER_EMPTY: ReadonlySet<string> = new Set([
  "document",
  "style",
  "script",
  "picture",
  "font",
  "sound",
  "film",
]);

function reportEmpty(context: SurveyContext, file: SurveyedFile, mediaType: string | undefined): void {
  if (!NEVER_EMPTY.has(decideKind(mediaType)) && !/json$/.test(mediaType ?? "")) return;
  context.report("empty-file", file, "It is empty.", "Build or copy it again, or remove it.");
}

function reportUnknown(context: SurveyContext, { file, start }: ReadFile): void {
  const name = file.path.slice(file.path.lastIndexOf("/") + 1);
  const extension = /\.[a-z0-9]+$/i.exec(name)?.[0];
  // Without an extension the content decides, and a text is shown as one.
  if (extension === undefined || !/octet-stream/.test(decideTypeByContent(start.subarray(0, HEADER_BYTES))))
    return;
  context.report(
    "type-not-known",
    file,
    `No media type is known for ${extension}, and its content does not show one: browsers download it.`,
    `mediaTypes: { ${extension.toLowerCase()}: application/octet-stream }`,
  );
}

function describeContent(content: string, said: string): string {
  return content === "text/html" && !said.startsWith("image") ? "an HTML page" : content;
}

function toText(bytes: Uint8Array): string {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString("latin1");
}

// What is said goes before what the bytes are: where they differ, letters beyond ASCII show as others.
function checkCharset(context: SurveyContext, { file, mediaType, start }: ReadFile): void {
  const { charset } = selectRules(file.mount, file.path);
  if (!takesCharset(mediaType!) || start.length < file.sizeBytes) return;
  const said = (readCharset(mediaType!, start.subarray(0, 1024))?.charset ?? charset).toLowerCase();
  if (said !== "utf-8" && said !== "utf8") return;
  try {
    DECODER.decode(start);
  } catch {
    context.report(
      "charset-differs",
      file,
      "It is declared as UTF-8, but its bytes are not UTF-8: letters such as ö look wrong.",
      writeCommand(
        file.path,
        (path) => `iconv -f WINDOWS-1252 -t UTF-8 -o ${path}.utf8 ${path}`,
        "Save it in UTF-8.",
      ),
    );
  }
}

const DECODER = new TextDecoder("utf-8", { fatal: true });
