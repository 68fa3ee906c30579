import type { Preloads } from "../../core/rules/preloads.js";
import { readPage } from "../../reading/pages/page.js";
import { findPreloads } from "../../reading/pages/preloads.js";
import { inSlices } from "../../reading/slices.js";
import { innermost } from "../compiler.js";

type Value = boolean;

export const preloadsCompiler = innermost({
  default: false,
  compile: (value: Value): Preloads | undefined =>
    value
      ? {
          readUpTo: HEAD_WITHIN,
          // Addresses are ASCII in every charset that begins like it.
          async read(bytes) {
            return findPreloads(await inSlices(readPage(new TextDecoder("latin1").decode(bytes), false)));
          },
        }
      : undefined,
});

/** A head is near the beginning of a page; more of it is not read, in bytes. */
const HEAD_WITHIN = 64 * 1024;
