import { isCompressible } from "../core/media-types/media-type.js";
import { CODING_ENDINGS } from "../core/rules/codings.js";
import { findRule } from "../core/rules/file-rules.js";
import { selectRules } from "../core/rules/mount.js";
import { writeCommand } from "../core/text/command.js";
import { formatSize } from "../core/text/size.js";
import { decideKind, isLoadedByPages } from "../reading/contents/kinds.js";
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
          file.path,
          (path) => `gzip -k9 ${path}, and codings: { prebuilt: [gzip] }`,
          "Compress it with gzip -k9, and write codings: { prebuilt: [gzip] }.",
        )
      : "codings: { compress: true }",
  );
}

/** Times of a folder that a tool set say nothing of the content: bad only where validators are made from them. */
export function checkTimes(context: SurveyContext, { mount, path, files }: SurveyedFolder): void {
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
