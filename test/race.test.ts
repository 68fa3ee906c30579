import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { linkSync } from "node:fs";
import { join } from "node:path";
import { createInterface } from "node:readline";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Site, SiteConfig } from "../src/index.js";
import { openSite } from "./counting-source.js";
import { ask, makeTree, type Tree } from "./helpers.js";

/** For how long each case is attacked, in milliseconds; longer runs are made by hand with EPISTYLE_RACE_MS. */
const ATTACK_MS = Number(process.env.EPISTYLE_RACE_MS ?? 250);

/** Stands in each content that nobody may see, and tells it by its size; `CANARY` stands in the names. */
const CANARY = `CANARY${"!".repeat(4321)}`;

let tree: Tree;
let sites: Record<"inside" | "none", Site>;

beforeAll(async () => {
  const forms = (folder: string, what: string) => ({
    [`${folder}/page.txt`]: what,
    [`${folder}/${what.replace(/!+$/, "")}.txt`]: what,
    [`${folder}/data.json`]: what,
  });
  tree = await makeTree({
    ...forms("outside/folder", CANARY),
    ...forms("site/private", CANARY),
    ...forms("site/open", "one"),
    ...forms("spare/open", "two"),
    ...forms("releases/1", "one"),
    ...forms("releases/2", "two"),
    "site/file.txt": "one",
    "spare/file.txt": "two",
    "site/twin-a.txt": "one",
    "site/twin-b.txt": "two",
    "site/coded.txt": "one",
    "site/coded.txt.br": "one",
    "site/404.html": "own error page",
    "site/app/index.html": "shell",
    "site/plain.txt": "one",
    "site/hard.txt": "one",
    "site/lead": { link: "open" },
    "spare/to-outside": { link: "../outside/folder" },
    "spare/to-outside-file": { link: "../outside/folder/page.txt" },
    "spare/to-private": { link: "../site/private" },
    "spare/to-private-file": { link: "../site/private/page.txt" },
    "spare/lead": { link: "private" },
    "site/lead-in": { link: "private/page.txt" },
    current: { link: "releases/1" },
    next: { link: "releases/2" },
  });
  // A withheld file with a second name, which is withheld too.
  linkSync(join(tree.root, "site/private/page.txt"), join(tree.root, "site/private/second.txt"));
  const rules = {
    listing: true,
    withheld: ["private"],
    codings: { prebuilt: ["br"] },
    errorPages: { 404: "404.html" },
    areas: { "/app": { appShell: "app/index.html" } },
  } satisfies Partial<SiteConfig["mounts"][number]>;
  const open = (links: "inside" | "none"): Promise<Site> =>
    openSite({
      mounts: [
        { at: "/", folder: join(tree.root, "site"), links, ...rules },
        { at: "/current", folder: join(tree.root, "current"), listing: true },
      ],
    });
  sites = { inside: await open("inside"), none: await open("none") };
});

afterAll(() => tree?.remove());

interface Case {
  readonly about: string;
  /** The pairs that are exchanged, from the tree's root. */
  readonly pairs: readonly (readonly [string, string])[];
  readonly requests: readonly string[];
  /** Every summary and body that is right under either name. */
  readonly right: string;
}

const HIDDEN = "404 (link-leads-outside|link-not-followed|withheld) own error page";

const CASES: readonly Case[] = [
  {
    about: "a file and a link out of the folder",
    pairs: [["site/file.txt", "spare/to-outside-file"]],
    requests: ["/file.txt"],
    right: `200 file.txt one|${HIDDEN}`,
  },
  {
    about: "a file and a link to a withheld one",
    pairs: [["site/file.txt", "spare/to-private-file"]],
    requests: ["/file.txt"],
    right: `200 file.txt one|${HIDDEN}`,
  },
  {
    about: "a folder above and a link out of the folder",
    pairs: [["site/open", "spare/to-outside"]],
    requests: ["/open/page.txt", "/open/", "/open/?order=size"],
    right: `200 open/page.txt one|200 listing .*|${HIDDEN}`,
  },
  {
    about: "a folder above and a link to a withheld one",
    pairs: [["site/open", "spare/to-private"]],
    requests: ["/open/page.txt", "/open/", "/open/?order=time"],
    right: `200 open/page.txt one|200 listing .*|${HIDDEN}`,
  },
  {
    about: "where a link leads",
    pairs: [["site/lead", "spare/lead"]],
    requests: ["/lead/page.txt", "/lead/"],
    right: `200 lead/page.txt one|200 listing .*|${HIDDEN}`,
  },
  {
    about: "a sibling with a coding and a link out of the folder",
    pairs: [["site/coded.txt.br", "spare/to-outside-file"]],
    requests: ["/coded.txt"],
    right: "200 coded.txt(.br)? one",
  },
  {
    about: "an error page and a link out of the folder",
    pairs: [["site/404.html", "spare/to-outside-file"]],
    requests: ["/nope"],
    right: "404 no-such-file .*",
  },
  {
    about: "an app shell and a link to a withheld file",
    pairs: [["site/app/index.html", "spare/to-private-file"]],
    requests: ["/app/deep/link"],
    right: `200 app/index.html shell|404 .*`,
  },
  {
    about: "a withheld file with a second name, and another one",
    pairs: [["site/private/page.txt", "spare/file.txt"]],
    requests: ["/private/page.txt", "/private/second.txt", "/lead-in"],
    right: HIDDEN,
  },
  {
    about: "two versions of a file, one outside the folder",
    pairs: [["site/file.txt", "spare/file.txt"]],
    requests: ["/file.txt"],
    right: "200 file.txt (one|two)",
  },
  {
    about: "two files of the folder",
    pairs: [["site/twin-a.txt", "site/twin-b.txt"]],
    requests: ["/twin-a.txt", "/twin-b.txt"],
    right: "200 twin-[ab].txt (one|two)",
  },
  {
    about: "two versions of a folder",
    pairs: [["site/open", "spare/open"]],
    requests: ["/open/page.txt", "/open/data.json", "/open/"],
    right: "200 open/(page.txt|data.json) (one|two)|200 listing .*",
  },
  {
    about: "two releases behind a link",
    pairs: [["current", "next"]],
    requests: ["/current/page.txt", "/current/data.json", "/current/"],
    right: "200 current/(page.txt|data.json) (one|two)|200 listing .*",
  },
];

const canExchange =
  process.platform === "linux" && ["x64", "arm64", "riscv64"].includes(process.arch) && hasPerl();

function hasPerl(): boolean {
  try {
    execFileSync("perl", ["-e", "1"]);
    return true;
  } catch {
    return false;
  }
}

/** Exchanges the pairs until it is ended; then tells how often it did. */
async function attack(pairs: Case["pairs"], pauseMicroseconds: number): Promise<() => Promise<number>> {
  const names = pairs.flat().map((name) => join(tree.root, name));
  const child = spawn("perl", ["test/fixtures/exchange.pl", String(pauseMicroseconds), ...names], {
    stdio: ["pipe", "pipe", "inherit"],
  });
  const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
  await lines.next();
  return async () => {
    child.stdin.end();
    const { value } = await lines.next();
    if (child.exitCode === null) await once(child, "exit");
    return Number(value);
  };
}

describe.runIf(canExchange).each(["inside", "none"] as const)("links: %s, attacked", (links) => {
  test.for(CASES)("$about", async ({ pairs, requests, right }) => {
    const end = await attack(pairs, 200);
    const told = new Map<string, number>();
    const until = Date.now() + ATTACK_MS;
    while (Date.now() < until) {
      const answers = await Promise.all(
        [...requests, ...requests].map((path) =>
          ask(sites[links], `GET ${path}`, {
            accept: "application/json",
            "sec-fetch-mode": "navigate",
            "accept-encoding": "br",
          }),
        ),
      );
      const lines = answers.map(({ summary, body }) => `${summary} ${body}`.replaceAll(/\s+/g, " ").trim());
      const explained = await sites[links].explain({
        method: "GET",
        target: `${requests.at(-1)}missing`,
        headers: {},
      });
      const walked: string[] = [];
      for await (const { path, sizeBytes } of sites[links].files()) walked.push(`${path} ${sizeBytes}`);
      lines.push(...explained.hints.map((hint) => `hint ${hint}`), ...walked.map((one) => `walked ${one}`));
      for (const line of lines) told.set(line, (told.get(line) ?? 0) + 1);
    }
    expect(await end()).toBeGreaterThan(20);
    // A name that leads elsewhere whenever it is opened is said to be unsettled: seldom, and never with what it led to.
    const wrong = [...told].filter(
      ([line]) =>
        line.includes("CANARY") ||
        line.includes(String(CANARY.length)) ||
        !new RegExp(`^(${right}|hint .*|walked .*|503 unsettled .*)$`).test(line),
    );
    expect(wrong).toEqual([]);
  });
});
