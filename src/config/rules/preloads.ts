import * as z from "zod";
import type { Preloads } from "../../core/rules/preloads.js";
import { readPreloads } from "../page-preloads.js";
import { innermost } from "../rule.js";

/** A head is near the beginning of a page; more of it is not read, in bytes. */
const HEAD_WITHIN = 64 * 1024;

export const preloads = innermost({
  description:
    "Says in Link what a document's own head needs at once: style sheets, modules, what it preloads; over HTTP/2 a navigation is told before the answer (103 Early Hints, RFC 8297).",
  scope: "site",
  schema: z.boolean(),
  default: false,
  compile: (value): Preloads | undefined =>
    value
      ? {
          readUpTo: HEAD_WITHIN,
          // Addresses are ASCII in every charset that begins like it.
          read: (bytes) => readPreloads(new TextDecoder("latin1").decode(bytes)),
        }
      : undefined,
  explain: (rules) => (rules === undefined ? "" : "from the head of each document"),
});
