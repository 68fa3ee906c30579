import type { Listing, ListingEntry, ListingRules, Order } from "../rules/listing.js";
import { escapeHtml } from "../text/html.js";
import { showName } from "../text/printable.js";
import { formatCount, formatSize } from "../text/size.js";
import { describeKind } from "./describe-kind.js";
import { formatListingQuery } from "./query.js";
import { LISTING_ICON, LISTING_SCRIPT, LISTING_STYLE } from "./style.js";

/** What the configuration gives a listing to look by. */
export type ListingTheme = Omit<ListingRules, "render" | "pageSize">;

/** A directory of fewer names needs no filter. */
const FILTER_FROM = 20;

const COLUMNS: readonly [order: Order, title: string][] = [
  ["name", "Name"],
  ["kind", "Kind"],
  ["size", "Size"],
  ["time", "Modified"],
];

/** Renders a page of a listing as HTML: a table with headings that order it, through links that work without a script. */
export function renderListingHtml(listing: Listing, theme: ListingTheme): string {
  const { path, entries } = listing;
  const name = path === "/" ? (theme.title ?? "Files") : showName(path.split("/").at(-2)!);
  const heading = escapeHtml(name);
  const title =
    theme.title === undefined || path === "/" ? heading : `${heading} · ${escapeHtml(theme.title)}`;
  const offersFilter =
    theme.nameFilter && (listing.totalInDirectory >= FILTER_FROM || listing.request.filter !== "");
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${title}</title>
<link rel="icon" href="${theme.icon === undefined ? LISTING_ICON : escapeHtml(theme.icon)}">
<style>${LISTING_STYLE}</style>${theme.styleSheet === undefined ? "" : `\n<link rel="stylesheet" href="${escapeHtml(theme.styleSheet)}">`}
</head>
<body>
${SYMBOLS}
<main>
${path === "/" ? "" : renderTrail(path, theme)}
<div class="head"><h1><bdi>${heading}</bdi></h1>${offersFilter ? renderFilter(listing, theme) : ""}</div>
${theme.header === undefined ? "" : `<p class="note">${escapeHtml(theme.header)}</p>\n`}<table>
<caption>Files in ${heading}: ${describeTotal(listing)}</caption>
<thead><tr>${COLUMNS.map((column) => renderHeading(listing, theme, column)).join("")}</tr></thead>
<tbody>
${entries.map(renderRow).join("\n")}
</tbody>
</table>
${renderPages(listing, theme)}
${listing.offersDigests && entries.some(({ kind }) => kind === "file") ? `<p class="note"><a href="./?digests${escapeHtml(formatListingQuery(listing.request, theme.order).replace("?", "&"))}">Digests of these files</a> (SHA-256)</p>\n` : ""}</main>
${theme.footer === undefined ? "" : `<footer>${escapeHtml(theme.footer)}</footer>\n`}${offersFilter ? `<script>${LISTING_SCRIPT}</script>\n` : ""}</body>
</html>
`;
}

// A form of the platform's: without a script it asks for the names of the whole directory, too.
function renderFilter({ request, totalInDirectory, total, pages }: Listing, { order }: ListingTheme): string {
  const hidden = (name: string, value: string): string =>
    `<input type="hidden" name="${name}" value="${value}">`;
  const kept = [
    request.order === order ? "" : hidden("order", request.order),
    request.descending ? hidden("descending", "") : "",
  ].join("");
  const isWhole = pages === 1 && total === totalInDirectory;
  const more = isWhole ? "" : ` data-all="${formatCount(totalInDirectory)}"`;
  return `<form role="search"${more}>${kept}<label>Filter by name<input type="search" name="filter" value="${escapeHtml(request.filter)}" autocomplete="off" spellcheck="false"></label><button>Filter</button></form>`;
}

// The way from the mount's root: never above it.
function renderTrail(path: string, theme: ListingTheme): string {
  const names = path.split("/").filter(Boolean);
  const items = names.map((name, index) => {
    const depth = names.length - 1 - index;
    const text = `<bdi>${escapeHtml(showName(name))}</bdi>`;
    return depth === 0
      ? `<li aria-current="page">${text}</li>`
      : `<li><a${depth === 1 ? ' rel="up"' : ""} href="${"../".repeat(depth)}">${text}</a></li>`;
  });
  const root = `<li><a${names.length === 1 ? ' rel="up"' : ""} href="${"../".repeat(names.length)}">${escapeHtml(theme.title ?? "Files")}</a></li>`;
  return `<nav aria-label="Folders"><ol>${root}${items.join("")}</ol></nav>`;
}

function renderHeading(
  { request }: Listing,
  theme: ListingTheme,
  [order, title]: (typeof COLUMNS)[number],
): string {
  const current = request.order === order;
  const descending = current && !request.descending;
  const query = formatListingQuery({ ...request, order, descending, page: 1 }, theme.order);
  const state = current ? ` aria-sort="${request.descending ? "descending" : "ascending"}"` : "";
  const mark = current ? ` <span aria-hidden="true">${request.descending ? "↓" : "↑"}</span>` : "";
  return `<th scope="col"${state}><a rel="nofollow" href="./${escapeHtml(query)}">${title}${mark}</a></th>`;
}

function renderRow(entry: ListingEntry): string {
  const { name, kind, href, sizeBytes, modifiedMs } = entry;
  const { word, symbol } = describeKind(entry);
  const text = `<bdi>${escapeHtml(showName(name))}</bdi>`;
  const link = href === undefined ? text : `<a href="${escapeHtml(href)}">${text}</a>`;
  const exact = `${formatCount(sizeBytes)} bytes`;
  const size =
    kind === "file" ? `<data value="${sizeBytes}" title="${exact}">${formatSize(sizeBytes)}</data>` : "";
  const rowClass = kind === "directory" ? ' class="directory"' : href === undefined ? ' class="lost"' : "";
  return `<tr${rowClass}><th scope="row">${icon(symbol)}${link}</th><td>${word}</td><td>${size}</td><td>${renderTime(modifiedMs)}</td></tr>`;
}

function renderTime(modifiedMs: number | undefined): string {
  if (modifiedMs === undefined) return "";
  const iso = new Date(modifiedMs).toISOString();
  return `<time datetime="${iso}" title="${iso}">${iso.slice(0, 10)} <span class="clock">${iso.slice(11, 16)}</span></time>`;
}

function renderPages(listing: Listing, { order }: ListingTheme): string {
  const { page, pages, pageSize, total, totalInDirectory, request, entries } = listing;
  const address = (asked: Partial<Listing["request"]>): string =>
    `./${escapeHtml(formatListingQuery({ ...request, ...asked }, order))}`;
  const turn = (to: number, rel: string, text: string): string =>
    to < 1 || to > pages ? "" : `<li><a rel="${rel}" href="${address({ page: to })}">${text}</a></li>`;
  const numbers = numberPages(page, pages).map((to) => {
    if (to === undefined) return "<li>…</li>";
    const text = formatCount(to);
    return to === page
      ? `<li aria-current="page">${text}</li>`
      : `<li><a aria-label="Page ${text}" href="${address({ page: to })}">${text}</a></li>`;
  });
  const range = `${formatCount((page - 1) * pageSize + 1)}–${formatCount((page - 1) * pageSize + entries.length)} of ${formatCount(total)}`;
  const filtered =
    request.filter === ""
      ? ""
      : ` with “<bdi>${escapeHtml(showName(request.filter))}</bdi>” in the name · <a href="${address({ filter: "", page: 1 })}">Show all ${formatCount(totalInDirectory)}</a>`;
  const where = `${pages === 1 ? describeTotal(listing) : range}${filtered}`;
  const turns =
    pages === 1
      ? ""
      : `<nav aria-label="Pages"><ol>${turn(page - 1, "prev", "Previous")}${numbers.join("")}${turn(page + 1, "next", "Next")}</ol></nav>`;
  return `<div class="pages"><span>${where} <span role="status"></span></span>${turns}</div>`;
}

/** The pages to offer, of `pages`: the first, the last, those around this one; undefined stands for those between. */
export function numberPages(page: number, pages: number): (number | undefined)[] {
  const near = [page - 1, page, page + 1].filter((one) => one > 1 && one < pages);
  const chosen = [1, ...near, pages];
  return chosen.flatMap((one, index) => {
    const gap = one - (chosen[index - 1] ?? one);
    // In the place of a single page there may as well be its number.
    return gap > 2 ? [undefined, one] : gap === 2 ? [one - 1, one] : [one];
  });
}

/** The totals in words. */
function describeTotal({ total, totalDirectories, request }: Listing): string {
  const count = (n: number, one: string, many: string): string => `${formatCount(n)} ${n === 1 ? one : many}`;
  if (total === 0) return request.filter === "" ? "nothing here" : "nothing";
  const files = total - totalDirectories;
  return [
    totalDirectories > 0 ? count(totalDirectories, "folder", "folders") : "",
    files > 0 ? count(files, "file", "files") : "",
  ]
    .filter(Boolean)
    .join(", ");
}

const icon = (symbol: string): string => `<svg aria-hidden="true"><use href="#${symbol}"/></svg>`;

// One drawing for each kind of thing, in the text's colour: told apart by shape, and the column says it in words.
const SHAPES: Readonly<Record<string, string>> = {
  folder: '<path d="M2 5h5l2 2h7v8H2z"/>',
  text: '<path d="M4 2h7l3 3v11H4zM6.5 8h5M6.5 11h5"/>',
  picture: '<path d="M2 3h14v12H2zM2 13l4-4 3 3 3-4 4 5"/>',
  sound: '<path d="M3 7v4M6 4v10M9 6v6M12 2v14M15 7v4"/>',
  film: '<path d="M2 4h14v10H2zM7.5 6.5v5l4-2.5z"/>',
  data: '<path d="M2 3h14v12H2zM2 7h14M2 11h14M7 3v12"/>',
  archive: '<path d="M3 2h12v14H3zM9 2v2M9 6v2M9 10v3"/>',
  font: '<path d="M4 15L9 3l5 12M6 11h6"/>',
  file: '<path d="M4 2h7l3 3v11H4z"/>',
  lost: '<path d="M4 4l10 10M14 4L4 14"/>',
};
const SYMBOLS = `<svg width="0" height="0" aria-hidden="true">${Object.entries(SHAPES)
  .map(
    ([id, shape]) =>
      `<symbol id="${id}" viewBox="0 0 18 18" fill="none" stroke="currentColor" stroke-width="1.5" stroke-linejoin="round" stroke-linecap="round">${shape}</symbol>`,
  )
  .join("")}</svg>`;
