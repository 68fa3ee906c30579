import { execFileSync } from "node:child_process";
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { basename, join } from "node:path";
import { describe, expect, test } from "vitest";
import { parse } from "yaml";
import { validate } from "../src/site/problems.js";
import { fileSchema } from "../src/site/schema.js";
import { expectationsSchema } from "../src/testing/format/schema.js";

interface Example {
  readonly title: string;
  readonly language: string;
  readonly text: string;
}

const files = [
  "README.md",
  ...readdirSync("docs")
    .filter((name) => name.endsWith(".md"))
    .map((name) => join("docs", name)),
];
const examples: Example[] = files.flatMap((file) =>
  [...readFileSync(file, "utf8").matchAll(/```(\w+)\n([\s\S]*?)```/g)].map(([, language, text], index) => ({
    title: `${basename(file)}, example ${index + 1}`,
    language: language!,
    text: text!,
  })),
);
const inLanguage = (language: string): Example[] => examples.filter((example) => example.language === language);

describe("examples of the docs", () => {
  test.each(inLanguage("yaml"))("$title is a configuration or an expectations file", ({ text }) => {
    const value = parse(text);
    const result = validate("cases" in value ? expectationsSchema : fileSchema, value);
    expect(result.ok ? [] : result.problems).toEqual([]);
  });

  // The README's first is run by tools/check-package.mjs, from the packed tarball.
  test.each(inLanguage("js").filter(({ title }) => title !== "README.md, example 2"))("$title runs, and prints what it says", ({ text }) => {
    const folder = join(".cache", "docs");
    mkdirSync(folder, { recursive: true });
    const file = join(folder, "example.mjs");
    writeFileSync(file, text);
    const printed = execFileSync(process.execPath, [file], { encoding: "utf8", timeout: 10_000 });
    for (const [, said] of text.matchAll(/\/\/ prints: (.*)/g)) expect(printed).toContain(said);
  });

  test("every picture and page that is linked is there", () => {
    for (const file of files) {
      for (const [, target] of readFileSync(file, "utf8").matchAll(/\]\(([^)#:]+)\)/g)) {
        expect(() => readFileSync(join(file, "..", target!)), `${file}: ${target}`).not.toThrow();
      }
    }
  });
});

test("the demo data is what its script makes", () => {
  const made = join(".cache", "demo");
  execFileSync(process.execPath, ["demo/make/make.mjs", made]);
  const list = (root: string): string[] =>
    ["site", "archive"].flatMap((folder) =>
      readdirSync(join(root, folder), { recursive: true, withFileTypes: true })
        .filter((entry) => entry.isFile())
        .map((entry) => join(entry.parentPath, entry.name).slice(root.length)),
    );
  expect(list(made).sort()).toEqual(list("demo").sort());
  for (const name of list(made)) expect(readFileSync(made + name).equals(readFileSync(`demo${name}`)), name).toBe(true);
});
