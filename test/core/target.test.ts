import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { formatPath, parseTarget } from "../../src/core/request/target.js";

const read = (target: string): string => {
  const result = parseTarget(target);
  if (!result.ok) return result.problem.code;
  const { path, directoryForm, emptySegment, query } = result.value;
  return `${path}${directoryForm ? " dir" : ""}${emptySegment ? " empty" : ""}${query === "" ? "" : ` ${query}`}`;
};

describe("a request target is read as", () => {
  test.each([
    ["RFC 9112 §3.2.1 the root", "/", " dir"],
    ["a file", "/a/b.html", "a/b.html"],
    ["a directory", "/a/b/", "a/b dir"],
    ["§3.2.1 the query is not part of the path", "/a?x=/../y", "a ?x=/../y"],
    ["an empty query is kept", "/a/?", "a dir ?"],
    ["§3.2.2 absolute form", "http://example.test:8080/a?b", "a ?b"],
    ["§3.2.2 absolute form without a path", "https://example.test", " dir"],
    ["§3.2.2 absolute form, query but no path", "http://example.test?q", " dir ?q"],
    ["§3.2.3 authority form is not a path", "example.test:443", "not-a-path"],
    ["nothing", "", "not-a-path"],
    ["a fragment has no place in a target", "/a#b", "not-a-path"],
    ["RFC 3986 §2.1 escapes are UTF-8", "/%C3%93%C3%B0inshani", "Óðinshani"],
    ["decoded once: an escaped percent sign stays one", "/%2541", "%41"],
    ["decoded once: an escaped dot segment stays a name", "/%252e%252e/a", "%2e%2e/a"],
    ["a plus is a plus", "/a+b", "a+b"],
    ["raw letters stand for themselves", "/ö", "ö"],
    ["a cut escape", "/a%2", "bad-escape"],
    ["an escape that is not hexadecimal", "/%zz", "bad-escape"],
    ["an escape that is not UTF-8", "/%ff", "bad-escape"],
    ["an overlong escape of a slash", "/%c0%af", "bad-escape"],
    ["an escaped surrogate", "/%ed%a0%80", "bad-escape"],
    ["NUL", "/a%00.txt", "control-character"],
    ["an encoded slash", "/a%2fb", "encoded-slash"],
    ["an encoded slash in capitals", "/a%2Fb", "encoded-slash"],
    ["a backslash", "/a\\b", "backslash"],
    ["an encoded backslash", "/..%5c..%5cb", "backslash"],
    ["a dot segment", "/a/./b", "dot-segment"],
    ["dots above the root", "/../a", "dot-segment"],
    ["encoded dots", "/%2e%2e/a", "dot-segment"],
    ["half-encoded dots", "/.%2E/a", "dot-segment"],
    ["dots at the end", "/a/..", "dot-segment"],
    ["three dots are a name", "/.../a", ".../a"],
    ["dots within a name", "/a..b/..c", "a..b/..c"],
    ["an empty segment", "/a//b", "a//b empty"],
    ["two slashes in front are not an authority", "//host.test/a", "/host.test/a empty"],
    ["a newline in a name", "/a%0Ab", "a\nb"],
    ["a colon in a name", "/a:b", "a:b"],
  ])("%s", (_sentence, target, expected) => {
    expect(read(target)).toBe(expected);
  });
});

test("any text is read or refused, and what is read has no way out", () => {
  const piece = fc.oneof(
    fc.string({ unit: "binary" }),
    fc.constantFrom("/", "..", "%2e", "%2f", "%5c", "%00", "\\", "?", "//"),
  );
  fc.assert(
    fc.property(fc.array(piece), (pieces) => {
      const result = parseTarget(`/${pieces.join("")}`);
      if (!result.ok) return;
      const segments = result.value.path.split("/");
      expect(segments.some((s) => s === "." || s === ".." || /[\0\\]/.test(s))).toBe(false);
    }),
  );
});

test("a name that is written into a path is read back as the same name", () => {
  const name = fc.string({ unit: "grapheme", minLength: 1 }).filter((s) => !/[/\\\0]|^\.{1,2}$/.test(s));
  fc.assert(
    fc.property(fc.array(name, { minLength: 1 }), (names) => {
      const path = names.join("/");
      const written = formatPath(path);
      expect(read(`/${written}`)).toBe(path);
      expect(new URL(`./${written}`, "http://x.test/").pathname).toBe(`/${written}`);
    }),
  );
});
