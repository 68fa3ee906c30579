import { isCompressible } from "../core/media-types/media-type.js";
import { CODING_ENDINGS } from "../core/rules/codings.js";
import { findRule } from "../core/rules/file-rules.js";
import { selectRules } from "../core/rules/mount.js";
import { writeCommand } from "../core/text/command.js";
import { formatSize } from "../core/text/size.js";
import { decideKind, isLoadedByPages } from "../reading/contents/kinds.js";
import type { ReadFile } from "./examine/read-file.js";
import type { SurveyContext, SurveyedFile, SurveyedFolder } from "./survey-context.js";

/** A copy that is fresh for longer outlives a release, in seconds: 30 days. */
const LONG_SECONDS = 30 * 86_400;
/** A page that is fresh for longer shows the release before to many, in seconds. */
const PAGE_SECONDS = 3600;
/** A fingerprinted file that is fresh for less is asked for again without need, in seconds: a week. */
const SHORT_SECONDS = 7 * 86_400;
/** A text that is sent in more bytes than it needs matters from here on, in bytes. */
const LARGE_TEXT = 100 * 1024;
/** A longer one is not compressed on the fly, in bytes. */
const COMPRESS_UP_TO = 8 * 1024 * 1024;

/** How long a file is kept, and in which coding it is sent, against what it is. */
export function checkFreshness(
  context: SurveyContext,
  file: SurveyedFile,
  mediaType: string | undefined,
): void {
  const rules = selectRules(file.mount, file.path);
  const rule = findRule(rules.caching, file.path, file.fingerprinted);
  const lifetime = rule?.lifetimeSeconds ?? 0;
  const isDocument = decideKind(mediaType) === "document";
  if (isDocument && lifetime > PAGE_SECONDS) {
    context.report(
      "document-kept",
      file,
      `${rule!.label} keeps it for ${days(lifetime)}: until then, visitors do not see a new release.`,
      'caching: [{ files: "**/*.html", policy: revalidate }, …]',
    );
  } else if (file.fingerprinted) {
    if (lifetime < SHORT_SECONDS && !isDocument && isLoadedByPages(mediaType))
      context.report(
        "fingerprint-not-kept",
        file,
        "Its name changes with its content, so browsers could keep it, but they ask for it again.",
        "caching: [{ files: fingerprinted, policy: immutable }]",
      );
  } else if (lifetime >= LONG_SECONDS) {
    context.report(
      "kept-without-fingerprint",
      file,
      `${rule!.label} keeps it for ${days(lifetime)}, but its name does not change with its content.`,
      "caching: [{ files: fingerprinted, policy: immutable }]",
    );
  }
  checkCoding(context, file, mediaType);
}

/** A browser that has an old service worker may keep a whole old release with it. */
export function checkServiceWorker(context: SurveyContext, { file, text, mediaType = "" }: ReadFile): void {
  if (text === undefined || decideKind(mediaType) !== "script" || !SERVICE_WORKER.test(text)) return;
  const rule = findRule(selectRules(file.mount, file.path).caching, file.path, file.fingerprinted);
  if ((rule?.lifetimeSeconds ?? 0) > 0)
    context.report(
      "service-worker-kept",
      file,
      `${rule!.label} keeps it for ${days(rule!.lifetimeSeconds)}: until then, a fault in it cannot be mended.`,
      `caching: [{ files: ${JSON.stringify(file.path)}, policy: revalidate }, …]`,
    );
}

const SERVICE_WORKER =
  /\baddEventListener\(\s{0,9}["'](?:install|activate|fetch)["'][\s\S]{0,400}(?:waitUntil|respondWith|skipWaiting)/;
/** Sounds and pictures that every browser also plays and shows in a coding of a tenth of their size. */
const UNCOMPRESSED = /^(?:audio\/(?:x-|vnd\.)?(?:wave?|aiff)|image\/(?:x-ms-)?bmp|image\/tiff)$/;
const LARGE_MEDIA = 1024 * 1024;

/** A recording or picture as the device wrote it. */
export function checkMedia(context: SurveyContext, file: SurveyedFile, mediaType: string | undefined): void {
  if (file.sizeBytes < LARGE_MEDIA || !UNCOMPRESSED.test(mediaType ?? "")) return;
  const isSound = mediaType!.startsWith("audio");
  context.report(
    "uncompressed-media",
    file,
    `It has ${formatSize(file.sizeBytes)}, because nothing in it is compressed.`,
    isSound
      ? "Save it as FLAC, Opus or MP3; keep the original as a download."
      : "Save it as PNG, WebP or AVIF.",
  );
}

function days(seconds: number): string {
  return seconds < 86_400
    ? `${Math.round(seconds / 3600)} hours`
    : `${Math.round(seconds / 86_400).toString()} days`;
}

function checkCoding(context: SurveyContext, file: SurveyedFile, mediaType: string | undefined): void {
  const { codings, caching } = selectRules(file.mount, file.path);
  if (file.sizeBytes < LARGE_TEXT || mediaType === undefined || !isCompressible(mediaType)) return;
  if (
    codings.compress &&
    file.sizeBytes <= COMPRESS_UP_TO &&
    !findRule(caching, file.path, file.fingerprinted)?.noTransform
  )
    return;
  if (
    codings.prebuilt.some((coding) =>
      context.prebuilt.has(`${file.mount.at}\0${file.path}${CODING_ENDINGS[coding]}`),
    )
  )
    return;
  context.report(
    "large-without-coding",
    file,
    `It has ${formatSize(file.sizeBytes)} and could be compressed to about a third.`,
    file.sizeBytes > COMPRESS_UP_TO || codings.compress
      ? writeCommand(
          context.locate(file),
          (path) => `gzip -k9 ${path}, and codings: { prebuilt: [gzip] }`,
          "Compress it with gzip -k9, and write codings: { prebuilt: [gzip] }.",
        )
      : "codings: { compress: true }",
  );
}

/** A file is newer than now where a clock is wrong, in milliseconds: clocks differ a little. */
const FUTURE_MS = 86_400_000;

/** Times of a folder that a tool set say nothing of the content: bad only where validators are made from them. */
export function checkTimes(context: SurveyContext, folder: SurveyedFolder): void {
  const { mount, path, files } = folder;
  const fromFuture = files.find(({ modifiedMs }) => modifiedMs > Date.now() + FUTURE_MS);
  if (fromFuture !== undefined)
    context.report(
      "future-times",
      fromFuture,
      `Its time is ${new Date(fromFuture.modifiedMs).toISOString().slice(0, 10)}: no Last-Modified can be sent before that day.`,
      writeCommand(
        context.locate(fromFuture),
        (quoted) => `touch -- ${quoted}`,
        "Give it the time of today.",
      ),
    );
  if (selectRules(mount, path).validators !== "metadata" || files.length < 4) return;
  const counts = new Map<number, number>();
  for (const { modifiedMs } of files) counts.set(modifiedMs, (counts.get(modifiedMs) ?? 0) + 1);
  if (Math.max(...counts.values()) < files.length * 0.8) return;
  context.report(
    "fixed-times",
    { mount, path },
    "Most of its files have the same time, and validators: metadata makes tags from it: another release with the same sizes looks unchanged.",
    "validators: automatic",
  );
}
