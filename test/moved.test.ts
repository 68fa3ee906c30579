import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compileMoved } from "../src/config/moved/compile.js";
import { findMovedProblems } from "../src/config/moved/moved.js";
import { memorySource, openSite, type Site, type SiteConfig } from "../src/index.js";
import { NAVIGATION } from "../src/testing/ask/ask.js";
import { processorSeconds } from "./helpers.js";

// Addresses that moved, and addresses that are gone.
const FILES = {
  "index.html": "front",
  "about.html": "about",
  "404.html": "own page",
  "archive/2025/list.html": "list",
  "archive/index.html": "archive",
  "notes/kept.html": "kept",
  "Season report.pdf": "pdf",
};
const RULES = {
  moved: {
    "/old.html": "/about.html",
    "/notes/": "/archive/2025/",
    "/notes/special.html": "/about.html",
    "/shop/": "https://shop.larkholm.example/birds/",
    "/today": { to: "/archive/", temporary: true, query: "drop" },
    "/search": "/about.html?from=search#results",
    "/R%C3%A9sum%C3%A9 1.html": "/Season report.pdf",
    "/apps/old": "/apps/new",
    "/top": "/about.html#top",
    "/plain": "http://old.larkholm.example",
    "/guide/": "/guide/2026/",
  },
  gone: ["/club/", "/members.csv", "/notes/secret.html"],
} satisfies Partial<SiteConfig>;
const open = (more: Partial<SiteConfig> = RULES, mount: object = {}): Promise<Site> =>
  openSite({
    mounts: [{ source: memorySource(FILES), errorPages: { 404: "/404.html" }, ...mount }],
    ...more,
  });

describe("what is answered", () => {
  const tell = async (site: Site, target: string, more: object = {}): Promise<unknown[]> => {
    const answer = await site.respond({ method: "GET", target, headers: NAVIGATION, ...more });
    if (answer.kind === "pass") return ["pass"];
    return [
      answer.status,
      ...[answer.fields.get("Location")].filter((one) => one !== undefined),
      answer.reason.subject,
    ].filter((one) => one !== undefined);
  };

  test.each<[string, unknown[]]>([
    ["/old.html", [301, "./about.html", 'moved["/old.html"]']],
    ["/old.html?a=1&b", [301, "./about.html?a=1&b", 'moved["/old.html"]']],
    ["/old.html/", [404]],
    ["/notes/", [301, "../archive/2025/", 'moved["/notes/"]']],
    ["/notes", [301, "./archive/2025/", 'moved["/notes/"]']],
    ["/notes/list.html", [301, "../archive/2025/list.html", 'moved["/notes/"]']],
    ["/notes/a/b%20c/?q", [301, "../../../archive/2025/a/b%20c/?q", 'moved["/notes/"]']],
    ["/notes/kept.html", [200]],
    ["/notes/special.html", [301, "../about.html", 'moved["/notes/special.html"]']],
    ["/notes//evil.example/", [404]],
    ["/shop", [301, "https://shop.larkholm.example/birds/", 'moved["/shop/"]']],
    ["/shop/gulls/1?x=y", [301, "https://shop.larkholm.example/birds/gulls/1?x=y", 'moved["/shop/"]']],
    ["/today?q", [302, "./archive/", 'moved["/today"]']],
    ["/plain?q", [301, "http://old.larkholm.example/?q", 'moved["/plain"]']],
    ["/top?q=1", [301, "./about.html?q=1#top", 'moved["/top"]']],
    ["/search?q=1", [301, "./about.html?from=search#results", 'moved["/search"]']],
    ["/R%C3%A9sum%C3%A9%201.html", [301, "./Season%20report.pdf", 'moved["/Résumé 1.html"]']],
    ["/guide/a.html", [301, "../guide/2026/a.html", 'moved["/guide/"]']],
    ["/guide/2026/a.html", [404]],
    ["/club/", [410, "gone[0]"]],
    ["/club/a/b", [410, "gone[0]"]],
    ["/members.csv", [410, "gone[1]"]],
    ["/notes/secret.html", [410, "gone[2]"]],
  ])("%s: %j", async (target, expected) => {
    const told = await tell(await open(), target);
    expect(
      told.map((one) => String(one).replace('moved["/R%C3%A9sum%C3%A9 1.html"]', 'moved["/Résumé 1.html"]')),
    ).toEqual(expected.map(String));
  });

  test("the page for what is gone is the one for 410, or that for 404, or the built-in one", async () => {
    const read = async (site: Site): Promise<string> => {
      const answer = await site.respond({ method: "GET", target: "/club/", headers: NAVIGATION });
      if (answer.kind === "pass" || answer.body.kind === "none") return "";
      return String(
        Buffer.from(answer.body.kind === "bytes" ? answer.body.bytes : await answer.body.file.read(0, 100)),
      );
    };
    expect(await read(await open())).toBe("own page");
    expect(await read(await open(RULES, { errorPages: { 404: "/404.html", 410: "/about.html" } }))).toBe(
      "about",
    );
    expect(await read(await open(RULES, { errorPages: {} }))).toContain("This page is gone for good.");
  });

  test("before the app shell, before the application behind, outside of mounts, and under a prefix that a host took off", async () => {
    const app = await open(RULES, { appShell: "/index.html", whenMissing: "pass" });
    // What hides no rule, and leads nowhere wrong, is not told of.
    expect(app.warnings.filter((text) => /app\.html|index\.html answers/.test(text))).toEqual([]);
    expect((await tell(app, "/apps/old", { mayPass: true }))[0]).toBe(301);
    expect((await tell(app, "/club/x", { mayPass: true }))[0]).toBe(410);
    expect((await tell(app, "/apps/other", { mayPass: true }))[0]).toBe(200);
    const below = await openSite({
      mounts: [{ at: "/files", source: memorySource(FILES) }],
      moved: { "/old/": "/files/", "/files/old/": "/files/archive/" },
      gone: ["/past.html"],
    });
    expect(await tell(below, "/old/about.html")).toEqual([301, "../files/about.html", 'moved["/old/"]']);
    expect(await tell(below, "/files/old/2025/")).toEqual([
      301,
      "../../../files/archive/2025/",
      'moved["/files/old/"]',
    ]);
    expect((await tell(below, "/past.html", { mayPass: true }))[0]).toBe(410);
    expect((await tell(below, "/old/about.html", { method: "POST" }))[0]).toBe(405);
    expect(await tell(await open(), "/static/old.html", { strippedPrefix: "/static" })).toEqual([
      301,
      "./about.html",
      'moved["/old.html"]',
    ]);
  });

  test("a visitor is never led to another site than the rules name, and back to the same address neither", async () => {
    const site = await open();
    const part = fc.string({
      unit: fc.constantFrom(
        "/",
        "\\",
        "..",
        ".",
        "%2f",
        "%5c",
        "//",
        "evil.example",
        "@",
        ":",
        "?",
        "#",
        "notes",
        "shop",
        "guide",
        "2026",
        "old.html",
        "\t",
        "\r\n",
        "é",
        "%c3%a9",
        "https:",
      ),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom("/notes/", "/shop/", "/guide/", "/old.html", "/"),
        part,
        async (start, rest) => {
          const target = start + rest;
          const answer = await site.respond({ method: "GET", target, headers: {} });
          const location = answer.kind === "pass" ? undefined : answer.fields.get("Location");
          if (location === undefined) return;
          expect(location).toMatch(/^[\x21-\x7e]+$/);
          const from = new URL(`http://larkholm.example${target.replace(/^\/{2,}/, "/")}`);
          const to = new URL(location, from);
          expect(["larkholm.example", "shop.larkholm.example"]).toContain(to.host);
          expect(to.href.replace(/#.*/, "")).not.toBe(from.href.replace(/#.*/, ""));
        },
      ),
      { numRuns: 500 },
    );
  });
});

describe("what the start says", () => {
  test.each<[string, Partial<SiteConfig>, string]>([
    [
      "a file hides a rule",
      { moved: { "/about.html": "/archive/" } },
      'moved["/about.html"]: about.html answers there, so the rule never applies; leave the rule out, or remove the file.',
    ],
    ["a file hides what is gone", { gone: ["/about.html"] }, "gone[0]: about.html answers there"],
    [
      "a page at a folder's own address",
      { moved: { "/archive/": "/notes/" } },
      'moved["/archive/"]: archive/index.html answers at the folder\'s own address; the rule only applies to missing addresses below it.',
    ],
    [
      "the folder of a page",
      { moved: { "/archive": "/notes/" } },
      'moved["/archive"]: a redirect of the site itself answers there, so the rule never applies',
    ],
    [
      "a new address where nothing is",
      { moved: { "/a": "/b" } },
      'moved["/a"]: leads to /b, which is answered with 404, unless your application answers there; write the address where it is now.',
    ],
    [
      "a chain",
      { moved: { "/a": "/b", "/b": "/about.html" } },
      'moved["/a"]: leads to /b, which leads on to /about.html; write that one, so that visitors are redirected once.',
    ],
    [
      "a slash that is missing",
      { moved: { "/a": "/archive" } },
      'moved["/a"]: leads to /archive, which leads on to /archive/; write that one',
    ],
    [
      "a new address that is gone",
      { moved: { "/a": "/b" }, gone: ["/b"] },
      'moved["/a"]: leads to /b, which is answered with 410',
    ],
  ])("%s", async (_title, rules, warning) => {
    const { warnings } = await open(rules);
    await expect.poll(() => warnings).toEqual([expect.stringContaining(warning)]);
  });

  test("a listing at a folder's own address", async () => {
    const { warnings } = await openSite({
      mounts: [{ source: memorySource({ "listed/a.txt": "", "sub/index.html": "" }), listing: true }],
      moved: { "/listed/": "/sub/" },
    });
    await expect
      .poll(() => warnings)
      .toEqual([
        expect.stringContaining(
          'moved["/listed/"]: a listing answers at the folder\'s own address; the rule only applies',
        ),
      ]);
  });

  test("which addresses moved and are gone", async () => {
    const { moved } = await open();
    const root = await open({ moved: { "/home": "/" } });
    expect(root.moved).toEqual([{ from: "/home", to: "/", temporary: false, keepsQuery: true }]);
    expect(
      moved.filter(({ from }) => ["/notes/", "/shop/", "/today", "/search", "/club/"].includes(from)),
    ).toEqual([
      { from: "/notes/", to: "/archive/2025/", temporary: false, keepsQuery: true },
      { from: "/shop/", to: "https://shop.larkholm.example/birds/", temporary: false, keepsQuery: true },
      { from: "/today", to: "/archive/", temporary: true, keepsQuery: false },
      { from: "/search", to: "/about.html?from=search#results", temporary: false, keepsQuery: false },
      { from: "/club/", to: undefined, temporary: false, keepsQuery: false },
    ]);
  });

  test("of rules that are in order it says nothing", async () => {
    const { "/apps/old": _nowhere, ...moved } = RULES.moved;
    const { warnings } = await open({ moved: { ...moved, "/guide/": "/archive/" }, gone: ["/club/"] });
    await new Promise((done) => setTimeout(done, 60));
    expect(warnings).toEqual([]);
  });

  test.each<[string, Partial<SiteConfig>, string]>([
    [
      "no slash before",
      { moved: { "old.html": "/a" } },
      'moved["old.html"]: found "old.html"; an address starts with a slash: write "/old.html".',
    ],
    [
      "a pattern",
      { moved: { "/old/*": "/a/" } },
      'an address cannot be a pattern: for a folder and everything below it, write "/old/".',
    ],
    [
      "a query",
      { gone: ["/a?b"] },
      'gone[0]: found "/a?b"; an address is only a path, without query: write "/a".',
    ],
    ["dots", { gone: ["/a/../b"] }, "an address is a plain path, without dot segments"],
    [
      "a host without a scheme",
      { moved: { "/a": "shop.larkholm.example/a" } },
      'an address of another site needs its scheme: write "https://shop.larkholm.example/a".',
    ],
    [
      "two slashes",
      { moved: { "/a": "//shop.larkholm.example/a" } },
      'an address of another site needs its scheme: write "https://shop.larkholm.example/a".',
    ],
    [
      "a script",
      { moved: { "/a": "javascript:alert(1)" } },
      'a new address is a path of the site, as "/about"',
    ],
    [
      "a user",
      { moved: { "/a": "https://larkholm.example@evil.example/" } },
      "a new address is a path of the site",
    ],
    ["a relative one", { moved: { "/a": "b.html" } }, "a new address is a path of the site"],
    [
      "another key",
      { moved: { "/a": { to: "/b", permanent: true } } as never },
      'moved["/a"]: found the key "permanent"',
    ],
    [
      "a query twice",
      { moved: { "/a": { to: "/b?c", query: "keep" } } },
      "the new address has its own query",
    ],
    [
      "both",
      { moved: { "/about2": "/about.html" }, gone: ["/about2"] },
      'gone[0]: found "/about2", but moved["/about2"] has another rule for it; leave one of them out.',
    ],
    [
      "a folder to a file",
      { moved: { "/old/": "/about.html" } },
      'moved["/old/"]: found "/about.html", which is not a folder',
    ],
    ["itself", { moved: { "/a": "/a" } }, 'moved["/a"]: forms a circle (moved["/a"] → moved["/a"])'],
    [
      "a circle",
      { moved: { "/a": "/b", "/b": "/a" } },
      'moved["/a"]: forms a circle (moved["/a"] → moved["/b"] → moved["/a"])',
    ],
    ["folders in a circle", { moved: { "/a/": "/b/c/", "/b/": "/a/" } }, 'moved["/a/"]: forms a circle'],
    [
      "a folder that comes back from below",
      { moved: { "/a/": "/b/", "/b/c/": "/a/c/" } },
      'moved["/a/"]: forms a circle',
    ],
  ])("stops for %s", async (_title, rules, message) => {
    await expect(open(rules)).rejects.toThrow(message);
  });

  // If each looked at all others, it would take minutes.
  test("a hundred thousand rules are compiled", () => {
    const moved = Object.fromEntries(Array.from({ length: 100_000 }, (_, i) => [`/old/${i}/`, `/new/${i}/`]));
    expect(
      processorSeconds(() => expect(findMovedProblems(compileMoved({ moved }))).toEqual([])),
    ).toBeLessThan(20);
  });
});
