import { readCharset } from "../core/media-types/charset.js";
import { decideTypeByContent, HEADER_BYTES } from "../core/media-types/content.js";
import { decideMediaType, takesCharset } from "../core/media-types/media-type.js";
import { isCut, PICTURE_HEAD, type Picture, readPicture } from "../core/media-types/picture.js";
import { selectRules } from "../core/rules/mount.js";
import { writeCommand } from "../core/text/command.js";
import { own } from "../core/text/own.js";
import { formatCount } from "../core/text/size.js";
import { decideKind } from "../testing/discover/kind.js";
import type { SurveyContext, SurveyedFile } from "./survey-context.js";

/** So much of a file tells what it is, in bytes. */
export const START_BYTES = 4096;
/** A longer text is not read whole, in bytes. */
export const TEXT_UP_TO = 2 * 1024 * 1024;
/** So much of a picture's end tells whether it is there, in bytes: other programs append a little. */
const TAIL_BYTES = 1024;

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

export function wantedTail({ sizeBytes }: SurveyedFile, mediaType: string | undefined): number {
  return /^image\/(?:jpeg|png|gif)$/.test(mediaType ?? "") ? Math.min(sizeBytes, TAIL_BYTES) : 0;
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
  if (contradicts(mediaType, content, start)) {
    context.report(
      "content-contradicts-name",
      file,
      `Its name says ${mediaType}, but its content is ${describeContent(content, mediaType)}.`,
      "Give it the correct extension, or add its type to mediaTypes.",
    );
    return undefined;
  }
  if (isCut(start, tail.length > 0 ? tail : start, file.sizeBytes)) {
    context.report(
      "cut-picture",
      file,
      `Its ${formatCount(file.sizeBytes)} bytes end before the picture is complete.`,
      "Copy it again from its source.",
    );
  }
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

/** Types that no other format begins like. */
const TELLING = /^(?:image|font|audio|video)\//;
const PAGE = /^\s*(?:<!doctype html|<html[\s>])/i;

/** Types that one content has under several names, by the one that the content tells. */
const ALSO: Readonly<Record<string, RegExp>> = {
  "image/x-icon": /^image\/vnd\.microsoft\.icon$/,
  "image/bmp": /^image\/x-ms-bmp$/,
  // Outlines of either kind come under either name.
  "font/ttf": /^font\/(?:otf|sfnt|collection)$/,
  "font/otf": /^font\/(?:ttf|sfnt|collection)$/,
  "image/heic": /^image\/heif/,
};

function contradicts(said: string, content: string, start: Uint8Array): boolean {
  // The error page or the application's page under the name of a script, a style sheet or data.
  if (/^(?:text\/css|application\/json|application\/manifest\+json)$|javascript$/.test(said))
    return content === "text/html" && PAGE.test(toText(start.subarray(0, 256)));
  if (content === said || own(ALSO, content)?.test(said) || /octet-stream$/.test(content)) return false;
  if (content === "text/plain" || content === "text/html" || content === "text/xml")
    return /^(?:image\/(?!svg)|font\/|audio\/|video\/(?!mp2t))/.test(said) && !/mpegurl|pls/.test(said);
  if (!TELLING.test(said) && !TELLING.test(content)) return false;
  // Sound and film share their containers; a picture or a font is of one kind.
  return content.split("/")[0] !== said.split("/")[0]
    ? !(isMedia(said) && (isMedia(content) || content === "application/ogg"))
    : /^(?:image|font)\//.test(content);
}

const isMedia = (type: string): boolean => /^(?:audio|video)\//.test(type);

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
