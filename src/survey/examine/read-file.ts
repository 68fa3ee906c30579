import { isAscii } from "node:buffer";
import { decideMediaType, takesCharset } from "../../core/media-types/media-type.js";
import { isGzip, mayBePacked } from "../../core/rules/codings.js";
import { selectRules } from "../../core/rules/mount.js";
import { writeCommand } from "../../core/text/command.js";
import { formatSize } from "../../core/text/size.js";
import { wantedTail } from "../../reading/contents/formats.js";
import { PICTURE_HEAD } from "../../reading/contents/picture.js";
import { decodeText } from "../../reading/text.js";
import { unpack } from "../../reading/unpack.js";
import { FolderFile } from "../../sources/folder-file.js";
import type { SurveyContext, SurveyedFile } from "../survey-context.js";

/** How much of a file tells what it is, in bytes. */
const START_BYTES = 4096;
/** A longer text is not read whole, in bytes. */
const TEXT_UP_TO = 64 * 1024 * 1024;

/** A file as far as it was read. */
export interface ReadFile {
  readonly file: SurveyedFile;
  readonly mediaType: string | undefined;
  /** From its first byte on. */
  readonly start: Uint8Array;
  /** Its last bytes. */
  readonly tail: Uint8Array;
  /** All of it, where it is a text that was read whole. */
  readonly text: string | undefined;
  /** False where the bytes of a text are not UTF-8. */
  readonly isUtf8: boolean;
}

/** What a file's name says it is. */
export function typeByName({ mount, path }: SurveyedFile): string | undefined {
  return decideMediaType(path, selectRules(mount, path).mediaTypes)?.type;
}

/** Reads as much of a file as tells what is wrong with it: all of a text. Undefined where it cannot be read, which is reported. */
export async function readFile(context: SurveyContext, file: SurveyedFile): Promise<ReadFile | undefined> {
  const mediaType = typeByName(file);
  const { source } = file.mount;
  const found = source.openNow?.(file.path) ?? (await source.open(file.path));
  if (found.kind === "directory") found.directory.close();
  if (found.kind !== "file") {
    if (found.kind === "forbidden") await reportForbidden(context, file);
    return undefined;
  }
  const opened = found.file;
  try {
    const { sizeBytes } = opened.metadata;
    const head = context.scratch(wantedStart(sizeBytes, mediaType));
    // Nobody waits for an answer: reading in place takes a tenth of the time.
    const start =
      opened instanceof FolderFile ? opened.readNow(head) : await opened.read(0, head.length, head);
    const tailBytes = Math.min(sizeBytes, wantedTail(mediaType ?? ""));
    const tail = tailBytes === 0 ? start.subarray(0, 0) : await opened.read(sizeBytes - tailBytes, tailBytes);
    const read = { file, mediaType, start, tail };
    if (mayBePacked(file.path, mediaType) && isGzip(start)) return readPacked(read);
    return { ...read, ...readText(context, { file, mediaType, start, sizeBytes }) };
  } catch {
    return undefined;
  } finally {
    opened.close();
  }
}

// A drawing that is compressed by itself is what it is when a browser has unpacked it.
async function readPacked(read: Omit<ReadFile, "text" | "isUtf8">): Promise<ReadFile> {
  const bytes = await unpack(new Uint8Array(read.start), TEXT_UP_TO);
  if (bytes === undefined) return { ...read, text: undefined, isUtf8: true };
  return { ...read, start: bytes, tail: bytes.subarray(-1024), text: decodeText(bytes).text, isUtf8: true };
}

const isText = (mediaType: string | undefined): boolean =>
  mediaType !== undefined && (takesCharset(mediaType) || /(?:json|xml)$/.test(mediaType));

function wantedStart(sizeBytes: number, mediaType: string | undefined): number {
  if (
    /^(?:image\/(?:jpeg|png|gif|webp|avif|heic|bmp|x-icon)|video\/(?:mp4|quicktime))$/.test(mediaType ?? "")
  )
    return Math.min(sizeBytes, PICTURE_HEAD);
  if (/(?:zip|tar)$/.test(mediaType ?? "")) return Math.min(sizeBytes, PICTURE_HEAD);
  return Math.min(sizeBytes, isText(mediaType) && sizeBytes <= TEXT_UP_TO ? sizeBytes : START_BYTES);
}

const latin1 = (bytes: Uint8Array): string =>
  Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString("latin1");
const UTF8 = new TextDecoder("utf-8", { fatal: true });

function readText(
  context: SurveyContext,
  {
    file,
    mediaType,
    start,
    sizeBytes,
  }: Pick<ReadFile, "file" | "mediaType" | "start"> & { readonly sizeBytes: number },
): Pick<ReadFile, "text" | "isUtf8"> {
  if (!isText(mediaType)) return { text: undefined, isUtf8: true };
  if (start.length < sizeBytes) {
    if (sizeBytes > TEXT_UP_TO)
      context.report(
        "not-looked-at",
        file,
        `It has ${formatSize(sizeBytes)}: its links, its charset and what it says were not looked at.`,
        "Split it, or accept this.",
      );
    return { text: undefined, isUtf8: true };
  }
  // Most texts, and ten times as fast.
  if (isAscii(start)) return { text: latin1(start), isUtf8: true };
  try {
    return { text: UTF8.decode(start), isUtf8: true };
  } catch {
    return { text: decodeText(start, "windows-1252").text, isUtf8: false };
  }
}

async function reportForbidden(context: SurveyContext, file: SurveyedFile): Promise<void> {
  const told = await file.mount.source.diagnose(file.path);
  context.report(
    "not-readable",
    file,
    `${told?.text ?? "This process may not read it"}: visitors get 403.`,
    writeCommand(context.locate(file), (path) => `chmod a+r ${path}`, "Give everybody the right to read it."),
  );
}
