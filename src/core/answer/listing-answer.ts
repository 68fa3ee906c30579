import type { Reason } from "../explain/reason.js";
import { chooseMediaType } from "../fields/accept.js";
import { Fields } from "../fields/fields.js";
import { collectListing } from "../listing/collect.js";
import { addDigests, renderDigests } from "../listing/digests.js";
import type { KnownDirectories } from "../listing/directory.js";
import { renderListingHtml } from "../listing/html.js";
import { renderListingJson } from "../listing/json.js";
import type { Pause } from "../listing/order.js";
import { formatPolicy } from "../listing/policy.js";
import { asksForDigests, formatListingQuery, parseListingQuery } from "../listing/query.js";
import { renderListingText } from "../listing/text.js";
import { type Compressor, rankCodings } from "../represent/coding.js";
import type { KnownFiles } from "../represent/known-files.js";
import { mayTransform } from "../represent/representation.js";
import { fieldValue, type SiteRequest } from "../request/request.js";
import { type Candidate, type DirectoryCandidate, type OpenFiles, toError } from "../resolve/open-files.js";
import { TRIES } from "../resolve/read-directory.js";
import type { Coding } from "../rules/codings.js";
import { LISTING_FORMS, type Listing, type ListingForm, type ListingRules } from "../rules/listing.js";
import type { Rules } from "../rules/rules.js";
import { encodeUtf8 } from "../text/utf8.js";
import { answerBare, type Decision, NO_BODY, refuse } from "./plan.js";
import { evaluatePreconditions } from "./preconditions.js";

/** What listings are made with: the request's files, what is known about directories, a pause for long work, the request and the time. */
export interface ListingContext {
  readonly files: OpenFiles;
  readonly known: KnownDirectories;
  readonly knownFiles: KnownFiles;
  readonly pause: Pause;
  readonly request: SiteRequest;
  readonly nowSeconds: number;
  /** Makes codings on the fly; undefined where none can be made. */
  readonly compressor: Compressor | undefined;
}

/** A directory that was found at a path of the mount, and the query of its address. */
export interface AskedDirectory {
  readonly path: string;
  readonly found: DirectoryCandidate;
  readonly query: string;
  readonly rules: Rules;
}

/**
 * Answers a directory with its listing: HTML, JSON or plain text by `Accept`. One that is moved while it is read is opened again
 * by its path, so that nothing is told of a place that may not be shown.
 */
export async function answerListing(
  context: ListingContext,
  { path, found, query, rules: { digests, codings } }: AskedDirectory,
  rules: ListingRules,
): Promise<Decision> {
  const { files } = context;
  const asked = parseListingQuery(query, rules);
  let candidate: Candidate = found;
  for (let attempt = 1; attempt <= TRIES; attempt++) {
    if (candidate.kind === "error") return refuse(candidate.status, candidate.reason);
    if (candidate.kind !== "directory") return refuse(404, absence(candidate));
    const { directory, real } = candidate;
    const listed = { mount: files.mount, path, real, directory };
    const listing = await collectListing(context, listed, asked, rules.pageSize);
    const isDigested = digests && asksForDigests(query);
    const told =
      isDigested && !("kind" in listing)
        ? await addDigests(listing, path, { ...context, known: context.knownFiles })
        : listing;
    if (await directory.isInPlace()) {
      if (!("kind" in told))
        return answerWithListing({ ...told, offersDigests: digests }, rules, context, {
          isDigested,
          compresses: codings.compress && context.compressor !== undefined,
        });
      const { status, reason } = toError(told);
      return refuse(status, reason);
    }
    candidate = await files.open(path, "directory");
  }
  return refuse(503, { code: "unsettled" });
}

function absence(candidate: Extract<Candidate, { kind: "file" | "absent" }>): Reason {
  return candidate.kind === "file" ? { code: "slash-after-file" } : candidate.reason;
}

async function answerWithListing(
  listing: Listing,
  rules: ListingRules,
  { request, nowSeconds, compressor }: ListingContext,
  { isDigested, compresses }: { readonly isDigested: boolean; readonly compresses: boolean },
): Promise<Decision> {
  const wanted = chooseForm(fieldValue(request.headers, "accept"));
  // A list of digests is for programs: there is no page of it.
  const form = isDigested && wanted === "text/html" ? "text/plain" : wanted;
  const own = isDigested ? undefined : rules.render?.(listing, form);
  const { mediaType, body: text } = own ?? {
    mediaType: `${form}${form === "application/json" ? "" : "; charset=utf-8"}`,
    body:
      isDigested && form === "text/plain" ? renderDigests(listing, rules) : RENDERERS[form](listing, rules),
  };
  const tag = { weak: true, opaque: `"${hashText(text)}"` };
  const shared = Fields.of(
    ["Cache-Control", "no-cache", "a listing is revalidated each time"],
    ["ETag", `W/${tag.opaque}`, "the digest of the listing's text"],
    ["Vary", compresses ? "Accept, Accept-Encoding" : "Accept", "the form was negotiated"],
    ...listLinks(listing, rules),
  );
  const verdict = evaluatePreconditions(request.headers, { tag, lastModifiedSeconds: undefined }, nowSeconds);
  if (verdict.outcome === "failed")
    return refuse(412, { code: "precondition-failed", subject: verdict.field });
  if (verdict.outcome === "not-modified") return answerBare(304, shared, { code: "listing" });

  const plain = encodeUtf8(text);
  const coded = compresses ? await compress(plain, request, compressor) : undefined;
  const bytes = coded?.bytes ?? plain;
  let fields = Fields.of(
    ["Content-Type", mediaType, own === undefined ? "the form that Accept prefers" : "listing.render"],
    ["Content-Length", String(bytes.length), "the length of the listing"],
  ).concat(shared);
  if (coded !== undefined)
    fields = fields.append(
      "Content-Encoding",
      coded.coding,
      "the first coding of Accept-Encoding that can be made",
    );
  if (form === "text/html" && own === undefined)
    fields = fields.append("Content-Security-Policy", formatPolicy(rules), "a listing runs no other script");
  const body = request.method === "HEAD" ? NO_BODY : { kind: "bytes" as const, bytes };
  return { kind: "response", status: 200, fields, body, file: undefined, reason: { code: "listing" } };
}

const RENDERERS: Readonly<Record<ListingForm, (listing: Listing, rules: ListingRules) => string>> = {
  "text/html": renderListingHtml,
  "application/json": renderListingJson,
  "text/plain": renderListingText,
};

/** A shorter list is sent as it is, in bytes. */
const WORTH_BYTES = 1024;

async function compress(
  bytes: Uint8Array,
  request: SiteRequest,
  compressor: Compressor | undefined,
): Promise<{ readonly coding: Coding; readonly bytes: Uint8Array } | undefined> {
  if (compressor === undefined || bytes.length < WORTH_BYTES || !mayTransform(request)) return undefined;
  const [coding] = rankCodings(fieldValue(request.headers, "accept-encoding"), compressor.codings);
  const coded = coding === undefined ? undefined : await compressor.compressOnce(coding, bytes);
  return coded === undefined ? undefined : { coding: coding!, bytes: coded };
}

// RFC 8288: the way to the other pages, for programs that read no HTML.
function listLinks({ page, pages, request }: Listing, { order }: ListingRules): [string, string, string][] {
  const link = (to: number, rel: string): string =>
    `<./${formatListingQuery({ ...request, page: to }, order)}>; rel="${rel}"`;
  const links = [
    ...(page > 1 ? [link(page - 1, "prev")] : []),
    ...(page < pages ? [link(page + 1, "next")] : []),
  ];
  return links.length === 0 ? [] : [["Link", links.join(", "), "the pages before and after this one"]];
}

// Programs that mirror a folder take anything, and read HTML alone.
function chooseForm(accept: string | undefined): ListingForm {
  if (accept === undefined) return "text/html";
  return chooseMediaType(accept, LISTING_FORMS) ?? "text/html";
}

// FNV-1a over UTF-16 code units, twice with other starts: enough to tell two pages of one directory apart, and weak.
function hashText(text: string): string {
  let [a, b] = [0x811c9dc5, 0x9747b28c];
  for (let i = 0; i < text.length; i++) {
    a = Math.imul(a ^ text.charCodeAt(i), 0x01000193);
    b = Math.imul(b ^ text.charCodeAt(i), 0x01000193) ^ (b >>> 13);
  }
  return (a >>> 0).toString(36) + (b >>> 0).toString(36).padStart(7, "0");
}
