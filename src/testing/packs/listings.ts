import { findExposure } from "../../config/exposures.js";
import { escapeHtml } from "../../core/text/html.js";
import { removeSpans } from "../../core/text/spans.js";
import { unescapeText } from "../../core/text/unescape.js";
import { findReferences } from "../../reading/pages/references.js";
import { NAVIGATION } from "../ask/ask.js";
import type { Case } from "../case.js";
import { checkCaching } from "../checks/caching.js";
import type { Check, Seen } from "../checks/check.js";
import { pageOf, readText } from "../checks/content.js";
import type { NextQuestion } from "../checks/follow-ups.js";
import { toPath } from "../discover/crawl.js";
import { kindOf } from "../discover/kind.js";
import { foldersOf } from "../discover/sample.js";
import { findLeak } from "./leaks.js";
import { asAdvice, demand, get, makeCase, type Pack, skipCase, withFollowUps } from "./pack.js";

const FOLDERS_AT_MOST = 8;
/** How many entries of one list are asked for. */
const ENTRIES_AT_MOST = 30;

/** Folders of files: whether they are listed, and whether a list is right. */
export const listings: Pack = (sample) => {
  const folders = foldersOf(sample).slice(0, FOLDERS_AT_MOST);
  return folders.length === 0
    ? [skipCase("lists of folders", "every folder found has a page")]
    : folders.flatMap(lookAt);
};

function lookAt(folder: string): Case[] {
  return [...lookAtText(folder), ...lookAtUse(folder)];
}

const caseAbout =
  (folder: string) =>
  (name: string, checks: readonly Check[], reason: string): Case =>
    makeCase(`${folder} ${name}`, get(folder, { ...NAVIGATION }), checks, reason);

/** A check of a list, where there is one. */
const about = (
  what: string,
  expected: string,
  look: (text: string, seen: Seen) => string | undefined,
): Check =>
  demand(what, expected, (seen) => (seen.reply.status === 200 ? look(textOf(seen), seen) : undefined));

function lookAtText(folder: string): Case[] {
  const ask = caseAbout(folder);
  return [
    ask(
      "lists nothing that is private",
      [
        about("list", "no hidden or private names", (_, seen) => {
          const found = listEntries(seen).find((name) => isPrivate(name));
          return found === undefined ? undefined : `a list that names ${found}`;
        }),
      ],
      "whoever sees a name will try it",
    ),
    ask(
      "writes names so that they are text",
      [
        about("list", "names with < and & escaped in the HTML", (text, seen) => {
          const shown = removeSpans(text, "<script", "</script>");
          const raw = listEntries(seen).find((name) => /<[a-z!/]/i.test(name) && shown.includes(name));
          return raw === undefined
            ? undefined
            : `${JSON.stringify(raw)} written into the HTML as it is, not escaped`;
        }),
      ],
      "HTML §13.3: otherwise, file names can write into the page",
    ),
    ask(
      "is sent as HTML, not as text",
      [
        about("Content-Type", "text/html for a page of HTML", (text, { reply }) =>
          /^\s*<(?:!doctype html|html[\s>])/i.test(text) && kindOf(reply) !== "document"
            ? (reply.headers["content-type"] ?? "nothing")
            : undefined,
        ),
      ],
      "RFC 9110 §8.3",
    ),
    ask(
      "reveals nothing about the machine",
      [about("body", "no path of the machine", (text) => findLeak(text))],
      "attackers learn where to try next",
    ),
  ];
}

function lookAtUse(folder: string): Case[] {
  const ask = caseAbout(folder);
  return [
    ask(
      "has no long lifetime, if it is a list",
      [
        demand("caching", "fresh for at most 1 hour", (seen) =>
          seen.reply.status === 200 && isList(seen)
            ? checkCaching(["fresh for at most 1 hour"])[0]!.look(seen)?.text
            : undefined,
        ),
      ],
      "a list changes whenever files come and go",
    ),
    withFollowUps(ask("has links that work", [], "a list with broken links is worse than none"), [
      { name: "entries", plan: askForEntries },
    ]),
    asAdvice(
      ask(
        "shows no list of its files",
        [
          demand("list", "none", (seen) =>
            seen.reply.status === 200 && isList(seen) ? "a list of the folder's files" : undefined,
          ),
        ],
        "a list shows every name, also those that no page links to",
      ),
      "A folder lists its files: turn the list off if visitors should not see every name.",
    ),
  ];
}

function textOf({ reply }: Seen): string {
  return (readText(reply) as { text?: string }).text ?? "";
}

function linksOf(seen: Seen): string[] {
  if (seen.reply.status !== 200 || kindOf(seen.reply) !== "document") return [];
  const references = findReferences(pageOf(seen.reply), seen.address + seen.question.path);
  return references.flatMap(({ url, element }) => (element === "a" ? [url] : []));
}

/** The names of what is right below the folder, not escaped. */
function listEntries(seen: Seen): string[] {
  const base = seen.address + seen.question.path;
  return linksOf(seen).flatMap((url) => {
    if (!url.startsWith(base)) return [];
    const name = url.slice(base.length).replace(/[?#].*$/s, "");
    return name === "" || name.slice(0, -1).includes("/") ? [] : [unescapeText(name)];
  });
}

function isPrivate(name: string): boolean {
  const bare = name.replace(/\/$/, "");
  return (bare.startsWith(".") && bare !== ".well-known") || findExposure(bare)?.severity === "severe";
}

/** The texts behind tags: long names are cut short in lists, so as much of each as is always shown. */
const SHOWN = 20;

// Most of its links are called as the files are: an ordinary page gives them other names.
function isList(seen: Seen): boolean {
  const links = linksOf(seen);
  const texts = new Set<string>();
  for (const [, text] of textOf(seen).matchAll(/>\s?([^<>]{1,255})/g))
    texts.add(text!.slice(0, SHOWN).trim());
  const shown = links.filter((url) => {
    const name = unescapeText(
      url
        .replace(/[?#].*$/s, "")
        .replace(/\/$/, "")
        .replace(/^.*\//s, ""),
    );
    const escaped = escapeHtml(name).slice(0, SHOWN).trim();
    return escaped !== "" && (texts.has(escaped) || texts.has(`${escaped}/`));
  });
  return shown.length > 0 && shown.length * 2 > links.length;
}

function askForEntries(seen: Seen): NextQuestion[] {
  if (seen.reply.status !== 200 || !isList(seen)) return [];
  const paths = linksOf(seen).flatMap((url) => toPath(url, seen.address) ?? []);
  return [...new Set(paths)].slice(0, ENTRIES_AT_MOST).map((path) => ({
    name: `${path}, which it lists`,
    question: { ...get(path, { ...NAVIGATION }), readAtMost: 64 * 1024 },
    checks: [
      demand("status", "200, or a redirect to it", ({ reply: { status } }) =>
        status < 400 || status === 401 ? undefined : `${status} for ${path}: a broken link in the list`,
      ),
    ],
  }));
}
