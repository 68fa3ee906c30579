import * as z from "zod";
import { FINGERPRINTED } from "../core/rules/names.js";

const digest = z
  .string()
  .regex(/^sha-256=:[A-Za-z0-9+/]{43}=:$/)
  .describe("SHA-256 of all bytes, written as in RFC 9530 §2");

const head = z
  .strictObject({
    seal: z.literal(1).describe("Version of the form"),
    mounts: z
      .array(
        z.strictObject({
          at: z.string().describe("Prefix of the mount, from the site's root"),
          files: z.int().min(0).describe("How many lines are about its files"),
        }),
      )
      .describe("The mounts whose folders were sealed, in the order of the configuration"),
  })
  .describe("The first line");

const line = z
  .strictObject({
    mount: z.int().min(0).describe("Which of the mounts it belongs to, from 0"),
    path: z.string().describe("Path in the mount's folder, not escaped, segments joined by slashes"),
    size: z.int().min(0).describe("Bytes"),
    digest,
    modified: z.iso.datetime().describe("Time of the last modification, which listings show"),
    type: z.string().describe("Media type by its name, for readers of the file"),
    fingerprinted: z
      .union([z.enum(FINGERPRINTED), z.literal(false)])
      .optional()
      .describe("How it was known that the name is fingerprinted; false for one that is not"),
    codings: z
      .record(z.string(), digest)
      .optional()
      .describe("Prebuilt codings beside the file, with the digest of the file in that coding"),
    pieces: z
      .strictObject({
        size: z.literal(1_048_576).describe("Bytes of a piece; the last one may be shorter"),
        digests: z.base64().describe("The SHA-256 of each piece, one after another, in base64"),
      })
      .optional()
      .describe("Of a file above 1 MiB: what its pieces are verified with while they are sent"),
  })
  .describe("Each line after the first: a file");

/** A line of a seal file. */
export const sealSchema = z.union([head, line]);
