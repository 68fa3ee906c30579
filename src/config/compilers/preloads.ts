import type { Preloads } from "../../core/rules/preloads.js";
import { innermost } from "../compiler.js";
import { readPreloads } from "../page-preloads.js";

type Value = boolean;

export const preloadsCompiler = innermost({
  default: false,
  compile: (value: Value): Preloads | undefined =>
    value
      ? {
          readUpTo: HEAD_WITHIN,
          // Addresses are ASCII in every charset that begins like it.
          read: (bytes) => readPreloads(new TextDecoder("latin1").decode(bytes)),
        }
      : undefined,
});

/** A head is near the beginning of a page; more of it is not read, in bytes. */
const HEAD_WITHIN = 64 * 1024;
