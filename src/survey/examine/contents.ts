import { readCharset } from "../../core/media-types/charset.js";
import { decideTypeByContent, HEADER_BYTES } from "../../core/media-types/content.js";
import { decideMediaType, takesCharset } from "../../core/media-types/media-type.js";
import { selectRules } from "../../core/rules/mount.js";
import { writeCommand } from "../../core/text/command.js";
import { formatCount } from "../../core/text/size.js";
import { findFlaw } from "../../reading/contents/formats.js";
import { decideKind, extensionOf, fits, isPageInstead } from "../../reading/contents/kinds.js";
import { findXmlMistake } from "../../reading/contents/xml.js";
import { readJson } from "../../reading/json.js";
import type { SurveyContext, SurveyedFile } from "../survey-context.js";
import type { ReadFile } from "./read-file.js";

/** Longer data is not held against its grammar, in bytes. */
const JUDGED_AT_MOST = 4 * 1024 * 1024;

/** Holds a file's content against its name; true where the name is right. */
export function checkContent(context: SurveyContext, read: ReadFile): boolean {
  const { file, mediaType, start, tail } = read;
  if (file.sizeBytes === 0) {
    reportEmpty(context, file, mediaType);
    return false;
  }
  if (mediaType === undefined) {
    reportUnknown(context, read);
    return false;
  }
  const content = decideTypeByContent(start.subarray(0, HEADER_BYTES));
  if (!fits(mediaType, content) || isPageInstead(mediaType, toText(start.subarray(0, 256)))) {
    context.report(
      "content-contradicts-name",
      file,
      `Its name says ${mediaType}, but its content is ${describeContent(content, mediaType)}.`,
      "Give it the correct extension, or add its type to mediaTypes.",
    );
    return false;
  }
  checkRun(context, read, mediaType);
  checkWritten(context, read, mediaType);
  const flaw = findFlaw(mediaType, {
    head: start,
    tail: tail.length > 0 ? tail : start,
    sizeBytes: file.sizeBytes,
  });
  if (flaw?.kind === "text")
    context.report(
      "content-contradicts-name",
      file,
      `Its name says ${mediaType}, but it is ${flaw.text}.`,
      "Copy it again from its source.",
    );
  if (flaw?.kind === "cut")
    context.report(
      /^image\//.test(mediaType) ? "cut-picture" : "cut-file",
      file,
      `Its ${formatCount(file.sizeBytes)} bytes end too early: ${flaw.text}.`,
      "Copy it again from its source.",
    );
  checkCharset(context, read);
  return true;
}

// Data that a program reads, and documents that browsers refuse whole.
function checkWritten(context: SurveyContext, { file, text }: ReadFile, mediaType: string): void {
  if (text === undefined || file.sizeBytes > JUDGED_AT_MOST) return;
  if (/[/+]json$/.test(mediaType)) {
    const read = readJson(text);
    if (!read.ok && read.isSyntax)
      context.report(
        "broken-json",
        file,
        `It ${read.problem}: programs that ask for it fail.`,
        "Write it again with the program that made it.",
      );
  } else if (/[/+]xml$/.test(mediaType)) {
    const mistake = findXmlMistake(text);
    if (mistake !== undefined)
      context.report(
        "broken-xml",
        file,
        `It is not XML: ${mistake}.`,
        "Correct it: browsers show nothing but an error.",
      );
  }
}

// Fetch Standard §4.9: with nosniff, which is always sent, browsers run scripts and styles under their types alone.
function checkRun(context: SurveyContext, { file }: ReadFile, mediaType: string): void {
  const usual = decideMediaType(file.path, new Map())?.type;
  const kind = decideKind(usual);
  if ((kind !== "script" && kind !== "style") || decideKind(mediaType) === kind) return;
  context.report(
    "type-not-run",
    file,
    `It is sent as ${mediaType}, so browsers refuse it as a ${kind === "script" ? "script" : "style sheet"}.`,
    `mediaTypes: { ${extensionOf(file.path)}: ${usual} }`,
  );
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
function checkCharset(context: SurveyContext, { file, mediaType, start, text, isUtf8 }: ReadFile): void {
  if (text === undefined || !takesCharset(mediaType!)) return;
  const { charset } = selectRules(file.mount, file.path);
  const said = (readCharset(mediaType!, start.subarray(0, 1024))?.charset ?? charset).toLowerCase();
  const saysUtf8 = said === "utf-8" || said === "utf8";
  const problem = saysUtf8
    ? findUtf8Problem(start, isUtf8)
    : isUtf8 && /^(?:iso-8859-|windows-125|latin)/.test(said) && /[\u0080-\uffff]/.test(text)
      ? `It is declared as ${said}, but its bytes are UTF-8: letters such as ö look like Ã¶.`
      : undefined;
  if (problem === undefined) return;
  const from = hasNulls(start) ? "UTF-16" : "WINDOWS-1252";
  context.report(
    "charset-differs",
    file,
    problem,
    saysUtf8
      ? writeCommand(
          context.locate(file),
          (path) => `iconv -f ${from} -t UTF-8 -o ${path}.utf8 ${path}`,
          "Save it in UTF-8.",
        )
      : "Declare it as UTF-8.",
  );
}

function findUtf8Problem(start: Uint8Array, isUtf8: boolean): string | undefined {
  if (hasNulls(start))
    return "It is declared as UTF-8, but its bytes are UTF-16: browsers show letters with gaps, or nothing.";
  return isUtf8
    ? undefined
    : "It is declared as UTF-8, but its bytes are not UTF-8: letters such as ö look wrong.";
}

// Every letter of the first page of Unicode has one in UTF-16.
function hasNulls(start: Uint8Array): boolean {
  const head = start.subarray(0, 512);
  return head.length >= 4 && head.filter((byte) => byte === 0).length > head.length / 4;
}
