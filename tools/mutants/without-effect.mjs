/**
 * Faults that nobody can see from outside, with why: they are not tried. `line` is the line it begins in, `was` the text that
 * it replaces and `becomes` what it is replaced with, as `npm run mutants -- --all` prints them.
 */
export const WITHOUT_EFFECT = [
  {
    file: "src/core/rules/automaton.ts",
    line: "if (++this.#step === 0xffffffff) {",
    was: "{ this.#reached.fill(0); this.#step = 1; }",
    becomes: "{}",
    why: "after four thousand million steps",
  },
  {
    file: "src/core/listing/arrange.ts",
    line: 'const lasts = order === "name" || order === "kind";',
    was: 'order === "name"',
    becomes: "false",
    why: "speed: the order is made again for each page",
  },
  {
    file: "src/core/listing/order.ts",
    line: "for (let at = start; at < end; at++) {",
    was: "at < end",
    becomes: "at <= end",
    why: "the place behind the end is written again, or is outside the array",
  },
  {
    file: "src/core/listing/order.ts",
    line: "right >= end || (left < middle && compareKeys(keys[from[left]!]!, keys[from[right]!]!) <= 0);",
    was: "right >= end",
    becomes: "right > end",
    why: "a key that is not there is compared as equal, and the left one is taken",
  },
  {
    file: "src/core/listing/order.ts",
    line: "return a < b ? -1 : a > b ? 1 : 0;",
    was: "a > b",
    becomes: "a >= b",
    why: "a key has the entry's name in it: no two are equal",
  },
  {
    file: "src/core/represent/profile.ts",
    line: "if (modifiedSeconds <= nowSeconds || file.metadata.digest !== undefined)",
    was: "file.metadata.digest !== undefined",
    becomes: "false",
    why: "speed: a sealed file with a time in the future is described each time",
  },
  {
    file: "src/core/resolve/variants.ts",
    line: "if (hasOthers && trace === undefined) break;",
    was: "hasOthers && trace === undefined",
    becomes: "false",
    why: "speed: more variants are looked for than are needed",
  },
  {
    file: "src/core/resolve/read-directory.ts",
    line: "if (withheldIn(mount, realPath) !== undefined) return undefined;",
    was: "withheldIn(mount, realPath) !== undefined",
    becomes: "false",
    why: "what is in a withheld folder is withheld by itself, too",
  },
  {
    file: "src/core/rules/pattern.ts",
    line: 'if (isName && pattern.startsWith("*") && plain.test(ending))',
    was: 'isName && pattern.startsWith("*") && plain.test(ending)',
    becomes: "false",
    why: "speed: an ending is compared by the automaton",
  },
  {
    file: "src/sources/links.ts",
    line: 'if (process.platform !== "linux") return undefined;',
    was: 'process.platform !== "linux"',
    becomes: "false",
    why: "the tests run on Linux",
  },
  {
    file: "src/sources/common-times.ts",
    line: "if (known?.version !== version) {",
    was: "known?.version !== version",
    becomes: "true",
    why: "speed: the times of a folder are read again",
  },
  {
    file: "src/sources/folder.ts",
    line: "else this.#known.delete(path);",
    was: "this.#known.delete(path)",
    becomes: "",
    why: "where a path cannot be asked of its descriptor, which no test has",
  },
];
