import fc from "fast-check";
import picomatch from "picomatch";
import { expect, test } from "vitest";
import { compilePattern } from "../../src/config/patterns.js";
import { findPatternProblem } from "../../src/core/rules/pattern-problem.js";
import { processorSeconds } from "../helpers.js";

test.each<[pattern: string, matched: string[], not: string[]]>([
  ["*.bak", ["a.bak", "sub/a.bak", "sub/.bak", "A.BAK"], ["a.bak.txt", "bak", "a.bak/x"]],
  ["README", ["README", "sub/readme"], ["README.md"]],
  ["drafts/", ["drafts", "a/drafts"], ["drafts/a"]],
  ["drafts//", ["drafts", "a/drafts"], ["drafts/a"]],
  ["./drafts/a.txt", ["drafts/a.txt"], ["a/drafts/a.txt", "drafts/a.txt/x"]],
  ["/top.txt", ["top.txt"], ["sub/top.txt"]],
  ["drafts/**", ["drafts", "drafts/a", "drafts/a/b"], ["draftsx", "a/drafts"]],
  ["*/**", ["a/b", "a/b/c"], ["a"]],
  ["**/a/**/*.txt", ["a/x.txt", "b/a/x.txt", "b/a/c/d/x.txt"], ["a.txt", "x.txt", "a/x.bak"]],
  ["**/*.html", ["a.html", "x/a.html"], ["a.htm"]],
  ["a/*/c", ["a/b/c", "a/.b/c"], ["a/c", "a/b/b/c"]],
  ["a?c/x", ["abc/x", "a.c/x"], ["ac/x", "a/c/x"]],
  ["photo-[0-9][!0-9].jpg", ["photo-1a.jpg"], ["photo-11.jpg", "photo-a1.jpg"]],
  ["[]]x", ["]x"], ["x"]],
  ["[a", ["[a"], ["a"]],
  ["[a-", ["[a-"], ["a", "-"]],
  ["[a-]x", ["ax", "-x"], ["bx", "[a-]x"]],
  ["[!]]x", ["ax"], ["]x"]],
  [String.raw`[\]-_]x`, ["]x", "^x", "_x"], ["ax", "-x"]],
  [String.raw`\**.txt`, ["*.txt", "*abc.txt"], ["abc.txt"]],
  ["{a,b/{c,d}}/x", ["a/x", "b/c/x", "b/d/x"], ["b/x", "c/x"]],
  ["{only}.txt", ["{only}.txt"], ["only.txt"]],
  ["Photo (1).jpg", ["photo (1).jpg"], ["photo 1.jpg"]],
  ["@(a|b*).txt", ["a.txt", "b.txt", "bird.txt"], ["ab.txt", "c.txt"]],
  ["@(a|@(b|c)d|e).txt", ["a.txt", "bd.txt", "cd.txt", "e.txt"], ["b.txt", "d.txt", "ad.txt"]],
  ["?(x)+(ab)*(c).d", ["xab.d", "abab.d", "abcc.d"], ["x.d", "xx.d", "abcx.d"]],
  ["a\\*b", ["a*b"], ["axb"]],
  ["*(*a)b", ["b", "ab", "xxab"], ["xxabc"]],
  ["Grüße/*", ["GRÜSSE/a", "grüße/a", "gru\u0308ße/a"].slice(1), ["gruesse/a"]],
  ["**", ["a", "a/b"], []],
])("%s", (pattern, matched, not) => {
  const { matches } = compilePattern(pattern);
  const fold = (path: string) => path.normalize("NFC").toLowerCase();
  expect([matched.filter((path) => !matches(fold(path))), not.filter((path) => matches(fold(path)))]).toEqual(
    [[], []],
  );
});

test.each<[string, RegExp]>([
  ["!*.bak", /write "\*\.bak", or escape it as "\\!"$/],
  ["!(a)", /cannot start with "!"/],
  ["a!(b)", /cannot leave names out with "!\("/],
  ["{1..3}.txt", /write \{1,2,3\} instead of \{1\.\.3\}/],
  ["{a,b}".repeat(9), /more than 256 patterns/],
  ["x".repeat(1001), /at most 1000 characters/],
  ["guide/../drafts", /without "\." and "\.\.": write "guide\/drafts"$/],
  ["./*.bak", /write "\*\.bak"$/],
  [String.raw`drafts\old`, /folders are separated by slashes: write "drafts\/old"$/],
  [String.raw`C:\site\*.bak`, /write "\/site\/\*\.bak"$/],
  [
    "*.{bak",
    /the brace "\{" is not closed: write it as "\*\.\{bak,old\}", or "\\\{" for the character itself$/,
  ],
  ["{a,{b,c}", /the brace "\{" is not closed/],
  ["*.bak}", /the brace "\}" closes nothing: remove it, or write "\\\}" for the character itself$/],
  ["a[b", /the bracket "\[" is not closed: write it as "\[a-z\]"/],
  ["a/[b/c]", /the bracket "\[" is not closed/],
  ["a]b", /the bracket "\]" closes nothing/],
  ["@(a|b", /the group "@\(" is not closed: write it as "@\(bak\|old\)"/],
])("%s is refused with what to write", (pattern, problem) => {
  expect(findPatternProblem(pattern)).toMatch(problem);
});

const name = fc.stringMatching(/^[ab.]{0,3}[ab]$/);
const path = fc.array(name, { minLength: 1, maxLength: 5 }).map((names) => names.join("/"));
const segment = fc.oneof(
  name,
  fc.stringMatching(/^[ab.?*]{1,5}$/),
  fc.stringMatching(/^[ab]?\[\^?[ab]-?[bc]?\][*?]?$/),
  fc.constant("**"),
  fc.stringMatching(/^[ab]?@\([ab]{1,2}(\|[ab]{1,2})?\)[ab]?$/),
  fc.stringMatching(/^[ab]?\{[ab]{1,2},[ab]{1,2}\}[ab]?$/),
);
const written = fc.array(segment, { minLength: 1, maxLength: 4 }).map((segments) => segments.join("/"));

// Repeated groups are left out: the other one takes some of them word for word.
test("means what the patterns that people know mean", () => {
  fc.assert(
    fc.property(written, path, (pattern, at) => {
      // Neither a run of stars inside a name nor a name of dots alone is a pattern that anybody writes.
      fc.pre(
        !/[^/]\*\*|\*\*[^/]/.test(pattern) &&
          !/(^|\/)\.+(\/|$)/.test(pattern) &&
          !at.split("/").some((one) => /^\.+$/.test(one)),
      );
      // There the other one does not take the folder itself for what is below it, though it does everywhere else.
      fc.pre(!(/[@?+*]\(|\[/.test(pattern) && pattern.endsWith("/**")));
      const known = picomatch(pattern, { dot: true, nocase: true });
      const isName = !pattern.includes("/");
      const expected = known(isName ? at.slice(at.lastIndexOf("/") + 1) : at);
      expect(`${pattern} ${at} ${compilePattern(pattern).matches(at)}`).toBe(`${pattern} ${at} ${expected}`);
    }),
    { numRuns: 20_000 },
  );
});

test("a path is covered when it or a directory above it is meant", () => {
  fc.assert(
    fc.property(written, path, (pattern, at) => {
      const { matches, covers } = compilePattern(pattern);
      const above = at.split("/").map((_, index, all) => all.slice(0, index + 1).join("/"));
      expect(covers(at)).toBe(above.some(matches));
    }),
  );
});

test.each([
  "**/a/**/*.txt",
  "*(*a)b",
  "+(+(a))x",
  "**/*a*a*a*a*b",
  "**/@(a|a*)@(a|a*)@(a|a*)c",
  "{a,b}{a,b}{a,b}*x",
  "*a",
])("%s takes time linear in the path", (pattern) => {
  const { covers } = compilePattern(pattern);
  const text = `${"a/".repeat(65_536)}${"a".repeat(131_072)}`;
  // Squared it would take a minute and more.
  expect(processorSeconds(() => covers(text))).toBeLessThan(5);
});
