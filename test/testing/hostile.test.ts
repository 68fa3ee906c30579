import fc from "fast-check";
import { describe, expect, test } from "vitest";
// @ts-expect-error: the fuzz is of plain modules
import { answers } from "../../fuzz/answers.mjs";
import { memorySource, openSite } from "../../src/index.js";
import { readJson } from "../../src/reading/json.js";
import { extractManifestLinks } from "../../src/reading/links.js";
import { compareFields } from "../../src/testing/compare/fields.js";
import { readExpectations } from "../../src/testing/format/load.js";

// What comes from outside, made to break what reads it: files of other people, answers of servers.

test("whatever a server answers, packs, drafts and comparisons come to an end, each with a result", {
  timeout: 120_000,
}, async () => {
  const { arbitrary, check } = await answers.open();
  await fc.assert(
    fc.asyncProperty(arbitrary, async (input) => void (await check(input))),
    { numRuns: 150 },
  );
});

describe.each(["constructor", "toString", "__proto__", "valueOf", "hasOwnProperty"])(
  "a name that every object has is a name like any other: %s",
  (name) => {
    const group = (value: unknown) => JSON.parse(`{${JSON.stringify(name)}:${JSON.stringify(value)}}`);
    const mount = (more: object) => ({
      mounts: [{ source: memorySource({ "index.html": "<p>" }), ...more }],
    });
    const messageOf = (work: () => unknown): Promise<string> =>
      Promise.resolve()
        .then(work)
        .then(
          () => "nothing wrong",
          (error: Error) => `${error.name}: ${error.message}`,
        );

    test.each<[string, () => object]>([
      [
        "a key of the site",
        () => ({ ...mount({}), ...Object.defineProperty({}, name, { value: 1, enumerable: true }) }),
      ],
      ["a key of an area", () => mount({ areas: { "/a": group(1) } })],
      ["a key of a policy", () => mount({ caching: [{ files: "**", policy: group(1) }] })],
      ["a key of the protection", () => mount({ protect: { allow: group(["x"]) } })],
      ["a header's name", () => mount({ headers: [{ files: "**", set: group("x") }] })],
      ["an extension's type", () => mount({ mediaTypes: group("x/y") })],
      ["a value", () => mount({ kind: name, listing: name, validators: name })],
      ["a duration's unit", () => mount({ caching: [{ files: "**", policy: { maxAge: `1 ${name}` } }] })],
      ["a status", () => mount({ errorPages: group("/a") })],
    ])("in a configuration, %s", async (_what, config) => {
      const message = await messageOf(() => openSite(config() as never));
      expect(message).not.toMatch(/native code|\[object|^TypeError|^RangeError/);
      if (message !== "nothing wrong")
        expect(message).toMatch(/^SiteError: .*\[|^SiteError: the configuration|found/);
    });

    test.each<[string, object]>([
      ["a key", group(1)],
      ["a key of a case", { cases: [group(1)] }],
      ["what is expected", { cases: [{ request: "GET /", expect: group(1) }] }],
      ["a word of caching", { cases: [{ request: "GET /", expect: { caching: `fresh for 1 ${name}` } }] }],
      ["a pack", { packs: [name] }],
    ])("in expectations, %s", async (_what, written) => {
      const message = await messageOf(() =>
        readExpectations(JSON.stringify({ version: 1, ...written }), "a.json"),
      );
      expect(message).toMatch(/^SiteError: /);
      expect(message).not.toMatch(/native code|\[object/);
    });

    test("in the fields of an answer that is compared", () => {
      expect(compareFields({}, group("x"), ["", ""])).toEqual([
        { name, here: undefined, there: "x", noise: false },
      ]);
    });
  },
);

test.each([
  ["nested lists", "[".repeat(100_000) + "]".repeat(100_000), "is nested more than 200 levels deep"],
  ["nested groups that are cut off", '{"a":'.repeat(100_000), "is nested more than 200 levels deep"],
  ["what only looks nested", `"${"[".repeat(1000)}"`, undefined],
  ["escapes in a text", '{"a":"\\"[[[","b":[]}', undefined],
  ["a text that is cut off", '{"a":"\\', "is not JSON"],
])("JSON of a stranger is read or refused: %s", (_what, text, problem) => {
  const read = readJson(text);
  expect(read.ok ? undefined : read.problem).toBe(problem);
  expect(extractManifestLinks(text)).toEqual([]);
});
