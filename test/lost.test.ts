import { execFile } from "node:child_process";
import { readFileSync, rmSync } from "node:fs";
import { join, resolve } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { parse } from "yaml";
import { reportComparison } from "../src/cli/compare-html.js";
import { openSite } from "../src/index.js";
import { findLost, formatRules } from "../src/survey/index.js";
import { writeRules } from "../src/survey/lost/ready-rules.js";
import type { Comparison } from "../src/testing/compare/pair.js";
import { makeTree, type Tree } from "./helpers.js";

// Which addresses answered in one release, and do not in the next; and where their content is now.
const page = (title: string, text = ""): string =>
  `<!doctype html><html><head><title>${title}</title></head><body>${text}</body></html>`;
const EARLIER = {
  "index.html": page("Front"),
  "visit.html": page("Visiting the hide", "by ferry"),
  "birds/index.html": page("Birds"),
  "birds/waders/curlew.html": page("Curlew"),
  "birds/waders/redshank.html": page("Redshank"),
  "notes/lighthouse.html": page("Notes"),
  "records/ringing.csv": "a,b\n1,2\n",
  "two.txt": "equal",
  "empty.txt": "",
  "app-BGHzbpMo.js": "old()",
  "style.css": "a{}",
  "style.css.br": "coded",
  "Résumé 1.html": page("Only here"),
};
const NOW = {
  "index.html": page("Another front"),
  "come-and-visit.html": page("Visiting the hide", "by bus, too"),
  "guide/index.html": page("Birds"),
  "guide/waders/curlew.html": page("Curlew"),
  "guide/waders/redshank.html": page("Redshank"),
  "notes/light-house.html": page("Notes from the light"),
  "archive/ringing.csv": "a,b\n3,4\n5,6\n",
  "one/two.text": "equal",
  "other/two.text": "equal",
  "app-Zz9zbpMo.js": "new()",
  "styles/style.css": "b{}",
};
let earlier: Tree;
let now: Tree;
const lines = (lost: Awaited<ReturnType<typeof findLost>>): string[] =>
  lost.addresses.map(({ address, now }) =>
    now === undefined ? address : `${address} → ${now.address}, ${now.because}`,
  );

beforeAll(async () => {
  [earlier, now] = await Promise.all([makeTree(EARLIER), makeTree(NOW)]);
});
afterAll(() => Promise.all([earlier.remove(), now.remove()]));

const BY_CONTENT = [
  "/birds/ → /guide/, the same content",
  "/birds/index.html → /guide/index.html, the same content",
  "/birds/waders/curlew → /guide/waders/curlew, the same content",
  "/birds/waders/curlew.html → /guide/waders/curlew.html, the same content",
  "/birds/waders/redshank → /guide/waders/redshank, the same content",
  "/birds/waders/redshank.html → /guide/waders/redshank.html, the same content",
];
const BY_NAME = [
  "/notes/lighthouse → /notes/light-house, a near name",
  "/notes/lighthouse.html → /notes/light-house.html, a near name",
  "/records/ringing.csv → /archive/ringing.csv, a near name",
  "/style.css → /styles/style.css, a near name",
];
const NOWHERE = ["/R%C3%A9sum%C3%A9%201", "/R%C3%A9sum%C3%A9%201.html", "/empty.txt", "/two.txt"];

test("what was lost, with where it is now: by content, by title, by name", async () => {
  const lost = await findLost(earlier.root, now.root);
  const byTitle = [
    "/visit → /come-and-visit, the same title",
    "/visit.html → /come-and-visit.html, the same title",
  ];
  expect(lines(lost).sort()).toEqual([...BY_CONTENT, ...BY_NAME, ...byTitle, ...NOWHERE].sort());
  expect(parse(formatRules(lost))).toEqual({
    // One rule for a folder whose addresses all moved alike.
    moved: {
      "/birds/": "/guide/",
      "/notes/lighthouse": "/notes/light-house",
      "/notes/lighthouse.html": "/notes/light-house.html",
      "/records/ringing.csv": "/archive/ringing.csv",
      "/style.css": "/styles/style.css",
      "/visit": "/come-and-visit",
      "/visit.html": "/come-and-visit.html",
    },
    gone: expect.arrayContaining(NOWHERE),
  });
});

test("with the rules that were proposed, nothing is lost any more", async () => {
  const { moved, gone } = await findLost(earlier.root, now.root);
  const site = await openSite({ mounts: [{ folder: now.root }], moved, gone: [...gone] });
  const { releaseOf } = await import("../src/survey/index.js");
  expect((await findLost(earlier.root, await releaseOf("now", site))).addresses).toEqual([]);
});

describe("on the command line", () => {
  const run = (args: string[]): Promise<{ status: number; out: string }> =>
    promisify(execFile)(process.execPath, [resolve("dist/cli/bin.js"), ...args], {
      cwd: earlier.root,
      env: { ...process.env, NO_COLOR: "1" },
    }).then(
      ({ stdout }) => ({ status: 0, out: stdout }),
      (error: { code: number; stdout: string; stderr: string }) => ({
        status: error.code,
        out: error.stdout + error.stderr,
      }),
    );

  test("two folders; a seal and a folder; a seal that is replaced", async () => {
    const folders = await run(["compare", ".", now.root]);
    expect([folders.status, folders.out]).toEqual([
      1,
      expect.stringContaining("16 addresses no longer answer."),
    ]);
    expect(folders.out).toContain("moved:\n  /birds/: /guide/\n");
    expect((await run(["compare", ".", now.root, "--fail-on", "never"])).status).toBe(0);
    const page = join(now.root, "..", `${earlier.root.split("/").at(-1)}.html`);
    await run(["compare", ".", now.root, "--report", `html=${page}`]);
    expect(readFileSync(page, "utf8")).toMatch(
      /<dd class="bad">16<\/dd>.*\/birds\/<\/th><td>\/guide\/ <small>.*<pre tabindex="0">moved:\n {2}\/birds\/: \/guide\//s,
    );
    rmSync(page);
    const seal = join(now.root, "..", `${earlier.root.split("/").at(-1)}.jsonl`);
    expect((await run(["seal", ".", "--out", seal])).status).toBe(0);
    const written = readFileSync(seal, "utf8");
    // A seal has no titles; digests it has.
    const json = JSON.parse((await run(["compare", seal, now.root, "--report", "json"])).out);
    expect(json.lost.addresses).toHaveLength(16);
    expect(json.lost.addresses).toContainEqual({
      address: "/birds/",
      now: { address: "/guide/", because: "the same content" },
    });
    const refused = await run(["seal", now.root, "--out", seal, "--fail-on", "lost"]);
    expect([refused.status, refused.out]).toEqual([1, expect.stringContaining(`${seal} was not changed.`)]);
    expect(readFileSync(seal, "utf8")).toBe(written);
    expect((await run(["seal", now.root, "--out", seal])).out).toContain("16 addresses no longer answer.");
    expect((await run(["compare", seal, now.root])).out).toContain("Every old address still answers.");
    rmSync(seal);
  });

  test("a page of thousands that differ or are lost stays small, and says what it leaves out", () => {
    const differing = (path: string, to: string): Comparison => ({
      question: { method: "GET", path, headers: {} },
      unanswered: undefined,
      status: { here: 200, there: 301 },
      refused: false,
      fields: [
        { name: "location", here: undefined, there: to, noise: false },
        { name: "cache-control", here: "max-age=60", there: "no-cache", noise: false },
      ],
      body: { here: "1 line of HTML", there: "nothing" },
      reasons: ["one leads on to a path with a slash at its end"],
    });
    const each = <Value>(make: (i: number) => Value): Value[] =>
      Array.from({ length: 3000 }, (_, i) => make(i));
    const name = (i: number): string => `/guide/a-folder-with-a-long-name/page-${i}`;
    const comparisons = [
      ...each((i) => differing(name(i), `${name(i)}/`)),
      ...each((i) => differing(name(i + 3000), "/")),
    ];
    const addresses = each((i) => ({ address: name(i), now: undefined }));
    const lost = {
      earlier: "then",
      current: "now",
      addresses,
      moved: {},
      gone: addresses.map((one) => one.address),
    };
    const html = reportComparison(
      { here: "then", there: "now" },
      { answers: { comparisons, all: false }, lost },
    );
    expect([html.length < 300_000, (html.match(/<[a-z]/g) ?? []).length < 5000]).toEqual([true, true]);
    const notes = html.match(/[\d,]+ more [^<]*/g)!.filter((text) => text.includes("not listed"));
    expect(notes).toEqual(
      ["2,941", "2,600", "2,001"].map(
        (count) => `${count} more are not listed here: --report json has them all.`,
      ),
    );
    // What most addresses have in common comes first.
    expect(html.indexOf("2,999 more")).toBeLessThan(html.indexOf(`${name(0)}/`));
  });

  test("what was lost is read a few times, however many folders moved", () => {
    const readOften = (length: number): number => {
      let read = 0;
      const lost = Array.from({ length }, (_, i) => ({
        get address() {
          read++;
          return `/old/year-${i >> 2}/page-${i}`;
        },
        now: { address: `/new/season-${i >> 2}/page-${i}`, because: "the same content" as const },
      }));
      expect(Object.keys(writeRules(lost).moved)).toHaveLength(length / 4);
      return read / length;
    };
    expect(readOften(4000)).toBe(readOften(40));
  });

  test.each<[string, string[], string]>([
    [
      "nothing there",
      ["compare", ".", "none"],
      "none: there is no such file or folder; name a folder, a seal file or a configuration file.\n",
    ],
    [
      "expectations",
      ["compare", ".", now?.root ?? ".", "x.yaml"],
      "x.yaml: releases are compared by their files; leave the expectations out",
    ],
  ])("%s", async (_title, args, message) => {
    const { status, out } = await run(args);
    expect([status, out]).toEqual([2, expect.stringContaining(message)]);
  });
});

test("what is withheld now is not called gone; a redirect that leads nowhere is lost", async () => {
  const { releaseOf } = await import("../src/survey/lost/release.js");
  const { "notes/lighthouse.html": _, ...left } = EARLIER;
  const tree = await makeTree(left);
  const moved = await openSite({
    mounts: [{ folder: tree.root, withheld: ["birds/"] }],
    moved: { "/notes/": "/nowhere/" },
  });
  const lost = await findLost(earlier.root, await releaseOf("now", moved));
  expect(lost.gone).toEqual(["/notes/lighthouse", "/notes/lighthouse.html"]);
  expect(lost.addresses.filter(({ isWithheld }) => isWithheld).map(({ address }) => address)).toContain(
    "/birds/waders/curlew.html",
  );
  await tree.remove();
});
