import { readFileSync } from "node:fs";
import { type Completion, CompletionContext } from "@codemirror/autocomplete";
import { EditorState } from "@codemirror/state";
import fc from "fast-check";
import { expect, test } from "vitest";
import { completeFrom } from "../lab-page/completion.js";

const complete = completeFrom(JSON.parse(readFileSync("dist/schema/config.json", "utf8")));

/** What is offered where `|` stands in a text. */
function offered(text: string, explicit = true): readonly Completion[] {
  const pos = text.indexOf("|");
  const state = EditorState.create({ doc: text.replace("|", "") });
  const result = complete(new CompletionContext(state, pos, explicit));
  return (result as { options: readonly Completion[] } | null)?.options ?? [];
}

test.each<[string, string, string[], string[]]>([
  ["the site's keys", "mo|", ["mounts", "moved"], ["caching"]],
  ["but those that are there", "moved: {}\nmo|", ["mounts"], ["moved"]],
  ["those further down among them", "m|\nmoved: {}\n", ["mounts"], ["moved"]],
  [
    "behind a whole configuration",
    "mounts:\n  - folder: public\nmoved: { /old/: /guide/ }\nnot|",
    ["notListed"],
    [],
  ],
  ["a mount's", "mounts:\n  - fol|", ["folder", "caching"], ["mounts"]],
  ["on its second line", "mounts:\n  - folder: public\n    |", ["caching", "areas"], ["folder", "mounts"]],
  ["where the list stands as deep as its key", "mounts:\n- folder: public\n  ca|", ["caching"], ["folder"]],
  ["above other keys of it", "mounts:\n  - folder: public\n    ca|\n    kind: app\n", ["caching"], ["kind"]],
  ["an area's", "mounts:\n  - areas:\n      /records:\n        li|", ["listing", "caching"], ["folder"]],
  ["an area's, in flow style", "mounts:\n  - areas:\n      /records: { li|", ["listing"], ["folder"]],
  ["a rule's", "mounts:\n  - caching:\n      - fi|", ["files", "policy"], ["caching"]],
  ["a rule's, in flow style", "mounts:\n  - caching: [{ files: '*.css', po|", ["policy"], ["files"]],
  ["with text behind it", "mounts:\n  - caching: [{ po| }]\n    kind: app\n", ["policy"], ["kind"]],
  ["a policy's", "mounts:\n  - caching:\n      - policy: { |", ["maxAge"], ["files"]],
  [
    "a policy's, in block style",
    "mounts:\n  - caching:\n      - policy:\n          ma|",
    ["maxAge"],
    ["files"],
  ],
  ["a configuration in flow style", "mounts: [{ areas: { /x: { ca|", ["caching"], ["folder"]],
  ["a configuration as JSON", '{ "mounts": [{ "areas": { "/x": { ca|', ["caching"], ["folder"]],
  ["words", "mounts:\n  - kind: |", ["pages", "app", "archive"], ["folder"]],
  ["words of what may be several things", "mounts:\n  - listing: |", ["true", "false"], ["order"]],
  ["an example", "mounts:\n  - withheld: |", ['["*.bak", drafts/]'], []],
  ["words in brackets", "mounts:\n  - codings: { prebuilt: [br, g|", ["gzip"], ["prebuilt"]],
  ["words of a list", "mounts:\n  - codings:\n      prebuilt:\n        - g|", ["gzip"], ["prebuilt"]],
  ["nothing where the names are one's own", "mounts:\n  - areas:\n      /re|", [], ["listing"]],
  ["nothing in a comment", "# mo|", [], ["mounts"]],
  ["nothing in quotes", "mounts:\n  - folder: 'mo|", [], ["mounts", "caching"]],
  ["nothing below a key that nobody knows", "mounts:\n  - nonsense:\n      li|", [], ["listing"]],
])("completion offers %s", (_sentence, text, wanted, unwanted) => {
  const labels = offered(text).map(({ label }) => label);
  expect(labels).toEqual(expect.arrayContaining(wanted));
  expect(labels.filter((label) => unwanted.includes(label))).toEqual([]);
  if (wanted.length === 0) expect(labels).toEqual([]);
});

test("each key comes with its description; nothing is offered before a letter unless one asks, but for values", () => {
  for (const text of [
    "|",
    "mounts:\n  - |",
    "mounts:\n  - caching:\n      - policy: { |",
    "mounts:\n  - listing: { |",
  ])
    for (const { label, info } of offered(text).filter(({ type }) => type === "property"))
      expect(info, `${text} ${label}`).toMatch(/^[A-Z].*\.$/);
  expect(offered("mounts:\n  - |", false)).toEqual([]);
  expect(offered("mounts:\n  - kind: |", false).length).toBe(3);
});

test("whatever is written, it offers something or nothing, and never throws", () => {
  const piece = fc.constantFrom(
    "mounts:",
    "\n",
    "  ",
    "- ",
    "{ ",
    "}",
    "[",
    "]",
    "caching",
    ": ",
    "'",
    '"',
    "#",
    ", ",
    "é",
    "|",
    "&a",
    "*a",
    "?",
  );
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 20 }), (pieces) => {
      const text = pieces.filter((one) => one !== "|").join("");
      expect(Array.isArray(offered(`${text}|`))).toBe(true);
    }),
  );
});
