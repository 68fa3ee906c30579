import * as z from "zod";
import { ORDERS } from "../../core/rules/listing.js";

/** A directory listing as programs get it (`Accept: application/json`), published as schema/listing.json. */
export const listingSchema = z.strictObject({
  path: z
    .string()
    .describe("Path of the directory from the mount's root, decoded, with a slash at each end."),
  total: z.int().min(0).describe("Entries on all pages."),
  filter: z.string().optional().describe("The text that all names contain, if ?filter asks for one."),
  totalInDirectory: z
    .int()
    .min(0)
    .optional()
    .describe("Entries of the directory, if a filter leaves some out."),
  page: z.int().min(1),
  pages: z.int().min(1),
  order: z.enum(ORDERS),
  descending: z.boolean(),
  next: z.string().optional().describe("Relative address of the next page, if there is one."),
  entries: z.array(
    z.strictObject({
      name: z.string(),
      kind: z.enum(["directory", "file", "broken", "special", "unreadable"]),
      size: z.int().min(0).optional().describe("Bytes; only for files."),
      modified: z.iso.datetime().optional(),
      mediaType: z.string().optional().describe("Of files only."),
      href: z.string().optional().describe("Relative address; missing if there is nothing to open."),
      digest: z
        .string()
        .optional()
        .describe("The SHA-256 of a file's bytes as in RFC 9530, if ?digests asks for it."),
    }),
  ),
});
