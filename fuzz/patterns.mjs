import assert from "node:assert/strict";
import fc from "fast-check";
import { compilePattern } from "../.cache/build/config/patterns.js";
import { findPatternProblem } from "../.cache/build/core/rules/pattern-problem.js";

const piece = fc.constantFrom(
  "*",
  "**",
  "?",
  "/",
  "[",
  "]",
  "[!a]",
  "[a-c]",
  "[]a]",
  "{",
  "}",
  "{a,b}",
  ",",
  "(",
  ")",
  "@(",
  "+(",
  "*(",
  "?(",
  "|",
  "!",
  "\\",
  ".",
  "..",
  "a",
  "b",
  "ab",
  "é",
  "\u0301",
  "a/b",
  "**/",
  "\ud800",
);
const pattern = fc.array(piece, { minLength: 1, maxLength: 8 }).map((all) => all.join(""));
const name = fc
  .array(fc.constantFrom("a", "b", "c", ".", "*", "é", "]", "(", "|", "\\"), { minLength: 1, maxLength: 5 })
  .map((all) => all.join(""));
const path = fc.array(name, { minLength: 1, maxLength: 4 }).map((all) => all.join("/"));

/** A path and the folders above it. */
const withFolders = (path) => path.split("/").map((_, index, all) => all.slice(0, index + 1).join("/"));

export const patterns = {
  name: "patterns",
  share: 14,
  open: async () => ({
    arbitrary: fc.tuple(pattern, path),
    async check([pattern, path]) {
      const problem = findPatternProblem(pattern);
      if (problem !== undefined) {
        assert(problem.length > 10, problem);
        return "refused";
      }
      const { matches, covers } = compilePattern(pattern);
      const folded = path.normalize("NFC").toLowerCase();
      // A folder that is meant is meant with all that is in it.
      assert.equal(covers(folded), withFolders(folded).some(matches));
      return matches(folded) ? "matches" : covers(folded) ? "covers" : "does not match";
    },
    async close() {},
  }),
};
