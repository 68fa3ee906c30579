import { describe, expect, test } from "vitest";
import { describeReason } from "../src/index.js";
import { ask, openMemory } from "./helpers.js";

const BROWSER = { accept: "text/html,application/xhtml+xml,*/*;q=0.8" };

describe("an error page of one's own", () => {
  const open = () =>
    openMemory(
      {
        "404.html": "<h1>gone</h1>",
        "403.html": "closed",
        "deep/404.html": "deep gone",
        "deep/empty/x.txt": "x",
      },
      {
        errorPages: { 404: "/404.html", 403: "/403.html", 500: "/500.html" },
        areas: {
          "/deep": { errorPages: { 404: "/deep/404.html" } },
          "/bare": { errorPages: {} },
          "/lost": { errorPages: { 404: "/lost/404.html" } },
        },
      },
    );

  test.each([
    ["its status and its body", "GET /nope", {}, "404 no-such-file", "<h1>gone</h1>"],
    [
      "whatever is accepted",
      "GET /nope.json",
      { accept: "application/json" },
      "404 no-such-file",
      "<h1>gone</h1>",
    ],
    ["HEAD has the fields and no body", "HEAD /nope", {}, "404 no-such-file", ""],
    [
      "never conditional: any tag",
      "GET /nope",
      { "if-none-match": "*" },
      "404 no-such-file",
      "<h1>gone</h1>",
    ],
    [
      "never conditional: a date",
      "GET /nope",
      { "if-modified-since": "Fri, 01 Jan 2100 00:00:00 GMT" },
      "404 no-such-file",
      "<h1>gone</h1>",
    ],
    [
      "never conditional: a tag that must match",
      "GET /nope",
      { "if-match": '"x"' },
      "404 no-such-file",
      "<h1>gone</h1>",
    ],
    ["never partial", "GET /nope", { range: "bytes=0-3" }, "404 no-such-file", "<h1>gone</h1>"],
    [
      "another status, another page",
      "GET /deep/empty/",
      {},
      "403 no-default-document",
      "403 Forbidden\nThere is no page to show at this address.\n",
    ],
    ["the root's own refusal", "GET /", {}, "403 no-default-document", "closed"],
    ["an area's own page", "GET /deep/nope", {}, "404 no-such-file", "deep gone"],
    [
      "an area without pages",
      "GET /bare/nope",
      {},
      "404 no-such-file",
      "404 Not Found\nThere is nothing at this address.\n",
    ],
    [
      "a page that is missing itself falls back",
      "GET /lost/nope",
      {},
      "404 no-such-file",
      "404 Not Found\nThere is nothing at this address.\n",
    ],
    ["at its own address it is a page like any other", "GET /404.html", {}, "200 404.html", "<h1>gone</h1>"],
  ])("%s", async (_sentence, request, headers, summary, body) => {
    const answer = await ask(await open(), request, headers);
    expect([answer.summary, answer.body]).toEqual([summary, body]);
    if (summary.startsWith("404") && body === "<h1>gone</h1>") {
      expect(answer.fields).toEqual({
        "content-type": "text/html; charset=utf-8",
        "content-length": "13",
        "cache-control": "no-cache",
        "x-content-type-options": "nosniff",
      });
    }
  });
});

describe("the built-in body", () => {
  test.each([
    ["plain text, when nothing is asked for", {}, "text/plain; charset=utf-8", /^404 Not Found\n/],
    ["HTML for a browser", BROWSER, "text/html; charset=utf-8", /<h1><b>404<\/b> Not Found<\/h1>/],
    [
      "RFC 9457 problem details",
      { accept: "application/problem+json" },
      "application/problem+json",
      /^\{"type":"about:blank","title":"Not Found","status":404,"detail":".*"\}\n$/,
    ],
    [
      "problem details for a client of an API",
      { accept: "application/json, text/plain;q=0.5" },
      "application/problem+json",
      /"status":404/,
    ],
    [
      "plain text, when nothing offered is accepted",
      { accept: "image/png" },
      "text/plain; charset=utf-8",
      /^404/,
    ],
  ])("%s", async (_sentence, headers, type, body) => {
    const answer = await ask(await openMemory({ "a.txt": "a" }), "GET /nope", headers);
    expect(answer.fields).toMatchObject({
      "content-type": type,
      vary: "Accept",
      "x-content-type-options": "nosniff",
    });
    expect(answer.body).toMatch(body);
    expect(answer.fields["content-length"]).toBe(String(new TextEncoder().encode(answer.body).length));
  });

  test("leads to the front page, unless it is the front page", async () => {
    const site = await openMemory({ "a/a.txt": "a" });
    const link = async (path: string): Promise<boolean> =>
      (await ask(site, `GET ${path}`, BROWSER)).body.includes('<a href="/">');
    expect([await link("/nope"), await link("/a/"), await link("/")]).toEqual([true, true, false]);
    const mounted = await site.respond({
      method: "GET",
      target: "/",
      headers: BROWSER,
      strippedPrefix: "/docs",
    });
    expect(new TextDecoder().decode((mounted as { body: { bytes: Uint8Array } }).body.bytes)).toContain(
      '<a href="/">',
    );
  });

  test("tells a visitor neither the cause nor a name, and lets nothing run", async () => {
    const site = await openMemory({ "a.txt": "a", "secret/keys.txt": "k" }, { withheld: ["secret"] });
    for (const path of ["/secret/keys.txt", "/<script>", "/a.txt/"]) {
      const answer = await ask(site, `GET ${path}`, BROWSER);
      expect(answer.body).not.toMatch(/secret|withheld|script>|a\.txt|slash/);
      expect(answer.fields["content-security-policy"]).toMatch(
        /^default-src 'none'; style-src 'sha256-[^']+'; frame-ancestors 'none'/,
      );
    }
  });
});

test("a missing asset of an application says that the shell was not used, and why", async () => {
  const site = await openMemory(
    { "index.html": "shell" },
    { kind: "app", appShell: { file: "/index.html", except: ["/api"] } },
  );
  const why = async (request: string, headers = {}): Promise<string> => {
    const { answer } = await ask(site, request, headers);
    return describeReason(answer.reason);
  };
  expect(await why("GET /old.js", BROWSER)).toBe(
    "no such file; the app shell was not used: the name has a file extension",
  );
  expect(await why("GET /deep")).toBe(
    "no such file; the app shell was not used: the request is not a navigation",
  );
  expect(await why("GET /api/x", BROWSER)).toBe(
    "no such file; the app shell was not used: /api is excepted from it",
  );
  expect(await why("GET /deep", BROWSER)).toBe("the app shell: a navigation that no file answers");
});
