import { PAGE_NAMES } from "../config/choosing/default-documents.js";
import { selectRules } from "../core/rules/mount.js";
import { writeCommand, writeKey } from "../core/text/command.js";
import { foldName } from "../core/text/fold-name.js";
import { joinPath } from "../core/text/path.js";
import {
  addressOf,
  folderAddressOf,
  type SurveyContext,
  type SurveyedFile,
  type SurveyedFolder,
} from "./survey-context.js";

const UPLOADS = /^(?:uploads?|uploaded|user[-_]?(?:content|files|uploads)|attachments)$/i;
/** What runs as a page when it is opened by itself (HTML §7.11.1, SVG 2 §2.2). */
const RUNS = /\.(?:html?|xhtml|svg|xml)$/i;

/** Holds a folder's names against what its address will answer. */
export function checkFolder(context: SurveyContext, folder: SurveyedFolder): void {
  checkDocument(context, folder);
  checkCandidates(context, folder);
  checkUploads(context, folder);
}

function checkDocument(context: SurveyContext, { mount, path, files }: SurveyedFolder): void {
  const rules = selectRules(mount, path);
  const names = files.map((file) => nameOf(file));
  if (rules.listing !== undefined || rules.appShell !== undefined) return;
  if (names.some((name) => rules.defaultDocuments.includes(name))) return;
  const wanted = new Set(rules.defaultDocuments.map(foldName));
  const inOtherCase = names.find((name) => wanted.has(foldName(name)));
  // Deeper in, other names are those of pages that others link to.
  const other = inOtherCase ?? (path.includes("/") ? undefined : names.find((name) => PAGE_NAMES.test(name)));
  if (other !== undefined && !(other.endsWith(".php") && inOtherCase === undefined)) {
    context.refused.add(folderAddressOf(mount, path));
    const differs = inOtherCase === undefined ? "another name than" : "another case than";
    context.report(
      "document-of-another-name",
      { mount, path: joinPath(path, other) },
      `It has ${differs} ${rules.defaultDocuments.join(", ") || "any default document"}, so ${addressOf(mount, path)} is answered with 403.`,
      `defaultDocuments: [${[other, ...rules.defaultDocuments].join(", ")}]`,
    );
    return;
  }
  // A folder of parts has no page of its own, and one deep in a site is reached by the links to its pages: a link to the folder
  // itself is followed, and found. At the top, people type its address.
  if (path.includes("/")) return;
  const hasPages = names.some((name) => /\.html?$/i.test(name) && !/^\d{3}\.html?$/.test(name));
  if (path !== "" && !hasPages) return;
  if ((path === "" && names.length === 0) || isUploads(path)) return;
  context.refused.add(folderAddressOf(mount, path));
  context.report(
    "folder-without-document",
    { mount, path },
    `It has neither ${rules.defaultDocuments.join(" nor ") || "a default document"} nor a listing: visitors get 403 at ${addressOf(mount, path)}.`,
    path === "" ? "listing: true" : `areas: { ${writeKey(`/${path}`)}: { listing: true } }`,
  );
}

function checkCandidates(context: SurveyContext, { mount, path, files, folders }: SurveyedFolder): void {
  const { defaultDocuments, impliedExtensions } = selectRules(mount, path);
  const names = new Set(files.map((file) => nameOf(file)));
  const documents = defaultDocuments.filter((name) => names.has(name));
  if (documents.length > 1)
    context.report(
      "two-candidates",
      { mount, path: joinPath(path, documents[1]!) },
      `${documents[0]} answers at ${addressOf(mount, path)} instead, because it is first in defaultDocuments.`,
      writeCommand(
        context.locate({ mount, path: joinPath(path, documents[1]!) }),
        (name) => `rm -- ${name}`,
        "Remove one of the two.",
      ),
    );
  for (const extension of impliedExtensions)
    for (const name of names) {
      if (!name.endsWith(extension) || defaultDocuments.includes(name)) continue;
      const stem = name.slice(0, -extension.length);
      const others = impliedExtensions.filter((one) => one !== extension && names.has(stem + one));
      const hides = names.has(stem)
        ? stem
        : others.length > 0 && impliedExtensions.indexOf(extension) > impliedExtensions.indexOf(others[0]!)
          ? stem + others[0]!
          : undefined;
      if (hides !== undefined && stem !== "")
        context.report(
          "two-candidates",
          { mount, path: joinPath(path, name) },
          `${hides} answers at ${addressOf(mount, joinPath(path, stem))} instead.`,
          "Give one of the two another name.",
        );
      else if (folders.includes(stem) && context.documentsIn.has(`${mount.at}\0${joinPath(path, stem)}`))
        context.report(
          "two-candidates",
          { mount, path: joinPath(path, name) },
          `It answers at ${addressOf(mount, joinPath(path, stem))}, and the folder's document at the same address with a slash.`,
          "Keep one of the two, or link to only one form.",
        );
    }
}

function checkUploads(context: SurveyContext, { mount, path, files }: SurveyedFolder): void {
  if (!isUploads(path)) return;
  const rules = selectRules(mount, path);
  if (rules.listing !== undefined)
    context.report(
      "upload-folder-listed",
      { mount, path },
      "Its name says that visitors upload files there, and everybody can see all their names.",
      `areas: { /${path}: { listing: false } }`,
    );
  const running = files.filter((file) => RUNS.test(file.path) && !isKeptFromRunning(file));
  for (const file of running)
    context.report(
      "upload-runs-as-page",
      file,
      "Its folder seems to hold uploads, and scripts of a page or drawing there run with the rights of this site.",
      `areas: { /${path}: { downloads: ["*.html", "*.svg", "*.xml"] } }`,
    );
}

function isUploads(path: string): boolean {
  return path.split("/").some((name) => UPLOADS.test(name));
}

function isKeptFromRunning({ mount, path, fingerprinted }: SurveyedFile): boolean {
  const { downloads, headers } = selectRules(mount, path);
  const folded = foldName(path);
  if (downloads.some((rule) => rule.matches(folded, fingerprinted))) return true;
  return headers.some(
    (rule) =>
      rule.matches(folded, fingerprinted) &&
      /\bsandbox\b/.test(rule.fields.get("Content-Security-Policy") ?? ""),
  );
}

function nameOf({ path }: SurveyedFile): string {
  return path.slice(path.lastIndexOf("/") + 1);
}
