import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";

// A sentence is for people: what a program has to know is said beside it, as data.
const SENTENCES =
  "because|why|hint|warning|sentence|diagnosis|told|problem|message|advice|reason|refus(?:al|ed)|(?<=\\w\\.)wanted";
const BRANCHES = new RegExp(
  `\\b(?:${SENTENCES})\\b(?:\\??\\.(?:text|message|words|wanted)|\\[\\d\\]!?)*\\??\\.(?:includes|startsWith|endsWith|match|search|indexOf|split|replace)\\(|\\.test\\((?:\\w+\\.)*(?:${SENTENCES})(?:\\.(?:text|message))?(?: \\?\\? "")?\\)`,
);

/** What others say, who give no more than words: a parser of YAML, of options, a loader of modules, a server's Reason-Phrase. */
const OF_OTHERS = ["cli/usage.ts", "config/config-file.ts", "config/document.ts", "testing/ask/server.ts"];
/** Where a sentence is made. */
const MADE = 'sentence.replace("…"';

test("no code branches on the wording of a sentence of ours", () => {
  const files = readdirSync("src", { recursive: true, encoding: "utf8" }).filter((name) =>
    /\.tsx?$/.test(name),
  );
  expect(files.length).toBeGreaterThan(300);
  const found = files.flatMap((name) =>
    readFileSync(join("src", name), "utf8")
      .split("\n")
      .flatMap((line, index) =>
        BRANCHES.test(line) && !/^\s*(?:\/\/|\*|\/\*\*)/.test(line)
          ? [`${name}:${index + 1}: ${line.trim()}`]
          : [],
      ),
  );
  expect(
    found.filter((line) => !line.includes(MADE) && !OF_OTHERS.some((name) => line.startsWith(name))),
  ).toEqual([]);
  // The search itself finds what was there.
  for (const line of [
    'if (line?.because.endsWith("made from the page itself"))',
    "if (/leading dot/.test(reason.text))",
    'const change = diagnosis?.includes("no execute permission")',
    'if (refused.startsWith("the request is not a navigation"))',
    "const text = sentence.startsWith(file)",
    "(error as Error).message.replace(/^proxies/, ...)",
    'one.wanted.startsWith("it is a key of")',
  ])
    expect(BRANCHES.test(line) || line).toBe(true);
});
