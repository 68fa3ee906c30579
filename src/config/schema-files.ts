import { z } from "zod";
import { ORDERS } from "../core/listing/entry.js";
import type { ListingRenderer } from "../core/rules/rules.js";
import { parseDuration } from "./durations.js";

type Check<Value> = z.core.ParsePayload<Value>;

function reject(payload: Check<unknown>, wanted: string, input: unknown = payload.value): void {
  payload.issues.push({ code: "custom", input, message: wanted });
}

export const pattern = z.string().check((payload) => {
  if (payload.value.trim() === "")
    reject(payload, 'a pattern names files: write it as "*.bak" or "drafts/**"');
});

/** Which files a rule is for: a pattern, several, or the word `fingerprinted`. */
const files = z
  .union([pattern, z.array(pattern).min(1)])
  .describe('A pattern, a list of patterns, or "fingerprinted": names that bundlers made of the content.');

const duration = z
  .union([z.string(), z.number()])
  .check((payload) => {
    if (parseDuration(payload.value) === undefined) {
      reject(payload, 'a duration is seconds, or a number with a unit: write it as "10m", "7d" or "1y"');
    }
  })
  .describe("A duration: 90s, 10m, 1h30m, 7d, 2w, 1y, or a number of seconds.");

const policyGroup = z.strictObject({
  maxAge: duration.optional().describe("How long a copy is fresh (max-age)."),
  sharedMaxAge: duration.optional().describe("How long a shared cache's copy is fresh (s-maxage)."),
  staleWhileRevalidate: duration
    .optional()
    .describe("How long a stale copy may be used while it is asked for again."),
  staleIfError: duration.optional().describe("How long a stale copy may be used when the server fails."),
  mustRevalidate: z.boolean().optional().describe("A stale copy is never used unasked."),
  immutable: z.boolean().optional().describe("A fresh copy is not asked for again, not even on reload."),
  private: z.boolean().optional().describe("Only for the browser's own cache."),
  noTransform: z.boolean().optional().describe("Nobody may change the bytes on the way."),
});

const policy = z.union([z.enum(["immutable", "revalidate", "no-store"]), policyGroup]).check((payload) => {
  const { value } = payload;
  if (typeof value !== "object") return;
  if (Object.values(value).every((one) => one === undefined || one === false)) {
    reject(payload, 'a policy says something: write policy: revalidate, or policy: { maxAge: "10m" }');
  } else if (value.private && value.sharedMaxAge !== undefined) {
    reject(payload, "a private copy is in no shared cache: leave out private or sharedMaxAge");
  }
});

export const caching = z.array(
  z.strictObject({
    files,
    policy,
    cdn: policy
      .optional()
      .describe("What a content delivery network is told instead (CDN-Cache-Control, RFC 9213)."),
  }),
);

/** Fields that say how the message is framed, or that other rules decide: the key to use instead, or why there is none. */
const TAKEN: Readonly<Record<string, string>> = {
  "content-length": "it frames the message and is always set",
  "transfer-encoding": "it frames the message",
  connection: "it frames the message",
  "keep-alive": "it frames the message",
  upgrade: "it frames the message",
  te: "it frames the message",
  trailer: "it frames the message",
  date: "the server sets it",
  "content-range": "it frames a partial answer",
  "accept-ranges": "it is always set",
  "content-encoding": "the key codings decides it",
  "content-type": "the keys mediaTypes and charset decide it",
  "content-disposition": "the key downloads decides it",
  "cache-control": "the key caching decides it",
  "cdn-cache-control": "the key caching decides it",
  etag: "the key validators decides it",
  "last-modified": "the file's time decides it",
  vary: "it names what is negotiated, and is always set",
  location: "redirects are the library's own",
  "access-control-allow-origin": "the key crossOrigin decides it",
  "access-control-expose-headers": "the key crossOrigin decides it",
};

const fieldName = z.string().check((payload) => {
  const name = payload.value;
  // RFC 9110 §5.1: a field name is a token.
  if (!/^[!#$%&'*+\-.^_`|~0-9A-Za-z]+$/.test(name))
    reject(payload, "a field name has letters, digits and dashes: write it as X-Frame-Options");
  const taken = TAKEN[name.toLowerCase()];
  if (taken !== undefined) reject(payload, `this field cannot be set here, since ${taken}`);
});

const fieldValue = z.string().check((payload) => {
  // RFC 9110 §5.5: a line break in a value would begin another field.
  if (!/^[\t\x20-\x7e]*$/.test(payload.value))
    reject(payload, "a field value is one line of ASCII: leave line breaks and control characters out");
});

export const headers = z.array(z.strictObject({ files, set: z.record(fieldName, fieldValue) }));

const saveName = z.string().check((payload) => {
  if (payload.value === "" || /[/\\\p{Cc}]/u.test(payload.value))
    reject(payload, 'a name to save under has no folder: write it as "sightings.csv"');
});

export const downloads = z.array(z.union([pattern, z.strictObject({ files, saveAs: saveName.optional() })]));

export const codings = z.strictObject({
  prebuilt: z
    .array(z.enum(["br", "gzip"]))
    .optional()
    .describe("Codings that lie beside the file, as app.js.br and app.js.gz."),
  compress: z.boolean().optional().describe("Compress on the fly what compresses well (default true)."),
});

const origin = z.string().check((payload) => {
  const text = payload.value;
  if (!URL.canParse(text) || new URL(text).origin !== text)
    reject(payload, 'an origin is scheme, host and port: write it as "https://example.org"');
});

export const crossOrigin = z
  .union([z.literal("*"), z.literal(false), z.array(origin).min(1)])
  .describe('"*" for every origin, or a list of origins, such as ["https://example.org"].');

const listingFields = {
  order: z.enum(ORDERS).optional().describe("What rows are ordered by at first (default name)."),
  pageSize: z.int().min(10).max(5000).optional().describe("Rows on a page (default 500)."),
  title: z.string().min(1).optional().describe("Name of the mount, for the heading and the way up."),
  header: z.string().min(1).optional().describe("A sentence above the table."),
  footer: z.string().min(1).optional().describe("A sentence below the table."),
  stylesheet: z
    .string()
    .startsWith("/", { error: 'a style sheet of this site begins with a slash: write it as "/listing.css"' })
    .optional()
    .describe("Address of a style sheet that comes after the built-in one."),
  filter: z
    .boolean()
    .optional()
    .describe("Offer a field that filters by name, where scripts run (default true)."),
};

export const listingInFile = z.union([z.boolean(), z.strictObject(listingFields)]);
export const listingInCode = z.union([
  z.boolean(),
  z.strictObject({
    ...listingFields,
    render: z
      .custom<ListingRenderer>((value) => typeof value === "function", {
        error: "a function that gets a listing and gives { mediaType, body }",
      })
      .optional(),
  }),
]);

export type ListingConfig = z.input<typeof listingInCode>;
export type CachingConfig = z.input<typeof caching>[number];
export type PolicyConfig = z.input<typeof policy>;
export type FilesConfig = z.input<typeof files>;
export type HeaderConfig = z.input<typeof headers>[number];
export type DownloadConfig = z.input<typeof downloads>[number];
