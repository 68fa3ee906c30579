import { crossOriginFields } from "../answer/cross-origin.js";
import { answerBuiltIn } from "../answer/error-answer.js";
import { NO_BODY, type ResponsePlan } from "../answer/plan.js";
import { evaluatePreconditions } from "../answer/preconditions.js";
import { chooseMediaType } from "../fields/accept.js";
import { fieldValue } from "../request/request.js";
import type { ResolutionContext } from "../resolve/candidate.js";
import type { CompiledSite, ListingRules } from "../rules/rules.js";
import { encodeUtf8 } from "../text/utf8.js";
import { collectListing, type Listing } from "./collect.js";
import { formatListingQuery, parseListingQuery } from "./entry.js";
import { renderListingHtml } from "./html.js";
import { LISTING_SCRIPT_DIGEST, LISTING_STYLE_DIGEST } from "./style.js";

const OFFERED = ["text/html", "application/json", "text/plain"] as const;

/** Answers a directory with its listing: HTML, JSON or plain text by `Accept`. Undefined when it cannot be read. */
export async function answerListing(
  site: CompiledSite,
  context: ResolutionContext,
  path: string,
  rules: ListingRules,
): Promise<ResponsePlan | undefined> {
  const { request, mount, target } = context;
  const asked = parseListingQuery(target.query, rules.order);
  const listing = await collectListing(mount, context.rules, path, asked, rules.pageSize, site.pause);
  if (listing === undefined) return undefined;

  const form = chooseForm(fieldValue(request.headers, "accept"));
  const rendered = rules.render?.(listing, form) ?? {
    mediaType: `${form}${form === "application/json" ? "" : "; charset=utf-8"}`,
    body: render(listing, form, rules),
  };
  const bytes = encodeUtf8(rendered.body);
  const tag = { weak: true, opaque: `"${hashText(rendered.body)}"` };
  const shared = [
    "Cache-Control",
    "no-cache",
    "ETag",
    `W/${tag.opaque}`,
    "Vary",
    Array.isArray(context.rules.crossOrigin) ? "Accept, Origin" : "Accept",
    ...crossOriginFields(context.rules.crossOrigin, request),
  ];
  const verdict = evaluatePreconditions(
    request.headers,
    { tag, lastModifiedSeconds: undefined },
    site.now() / 1000,
  );
  if (verdict.outcome === "failed")
    return answerBuiltIn(request, 412, { code: "precondition-failed", subject: verdict.field });
  if (verdict.outcome === "not-modified") {
    return {
      kind: "response",
      status: 304,
      fields: shared,
      body: NO_BODY,
      file: undefined,
      reason: { code: "listing" },
    };
  }
  const fields = [
    "Content-Type",
    rendered.mediaType,
    "Content-Length",
    String(bytes.length),
    ...shared,
    "X-Content-Type-Options",
    "nosniff",
  ];
  if (form === "text/html" && rules.render === undefined)
    fields.push("Content-Security-Policy", formatPolicy(rules));
  const body = request.method === "HEAD" ? NO_BODY : { kind: "bytes" as const, bytes };
  return { kind: "response", status: 200, fields, body, file: undefined, reason: { code: "listing" } };
}

type Form = (typeof OFFERED)[number];

// A browser asks for HTML, a program for JSON; a terminal's client, which takes anything, is sent plain text.
function chooseForm(accept: string | undefined): Form {
  if (accept === undefined || accept.trim() === "*/*") return "text/plain";
  return chooseMediaType(accept, OFFERED) ?? "text/html";
}

function render(listing: Listing, form: Form, rules: ListingRules): string {
  switch (form) {
    case "text/html":
      return renderListingHtml(listing, { ...rules, defaultOrder: rules.order });
    case "application/json":
      return `${JSON.stringify(toJson(listing, rules), null, 2)}\n`;
    case "text/plain":
      return listing.entries
        .map(({ name, kind }) => `${name.replace(/[\r\n]/g, "?")}${kind === "directory" ? "/" : ""}\n`)
        .join("");
  }
}

/** The documented shape for programs; `schema/listing.json` describes it. */
function toJson(listing: Listing, rules: ListingRules): object {
  const { path, total, page, pages, request, entries } = listing;
  const next =
    page < pages ? `./${formatListingQuery({ ...request, page: page + 1 }, rules.order)}` : undefined;
  return {
    path,
    total,
    page,
    pages,
    order: request.order,
    descending: request.descending,
    next,
    entries: entries.map(({ name, kind, sizeBytes, modifiedMs, mediaType, href }) => ({
      name,
      kind,
      size: kind === "file" ? sizeBytes : undefined,
      modified: modifiedMs === undefined ? undefined : new Date(modifiedMs).toISOString(),
      mediaType,
      href,
    })),
  };
}

// Nothing runs but the filter, and nothing is styled but by the sheet, each by its digest.
function formatPolicy({ filter, stylesheet }: ListingRules): string {
  const style = `style-src 'sha256-${LISTING_STYLE_DIGEST}'${stylesheet === undefined ? "" : " 'self'"}`;
  const script = filter ? `; script-src 'sha256-${LISTING_SCRIPT_DIGEST}'` : "";
  const rest = stylesheet === undefined ? "" : "; font-src 'self'; img-src 'self'";
  return `default-src 'none'; ${style}${script}${rest}; frame-ancestors 'none'; base-uri 'none'; form-action 'none'`;
}

// FNV-1a over UTF-16 code units, twice with other starts: enough to tell two pages of one directory apart, and weak.
function hashText(text: string): string {
  let [a, b] = [0x811c9dc5, 0x9747b28c];
  for (let i = 0; i < text.length; i++) {
    a = Math.imul(a ^ text.charCodeAt(i), 0x01000193);
    b = Math.imul(b ^ text.charCodeAt(i), 0x01000193) ^ (b >>> 13);
  }
  return `${(a >>> 0).toString(36)}-${(b >>> 0).toString(36)}-${text.length.toString(36)}`;
}
