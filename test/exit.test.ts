import { describe, expect, test } from "vitest";
import { readPlan } from "../src/adapters/in-process.js";
import { webHandler } from "../src/adapters/web.js";
import {
  type FileSource,
  type Found,
  memorySource,
  type OpenedDirectory,
  type OpenedFile,
  type Site,
  type SiteConfig,
} from "../src/index.js";
import { openSite } from "./counting-source.js";
import { ask, changeDirectories, fieldsOf } from "./helpers.js";

const ORIGIN = "https://larkholm.example";
const TREE = {
  "index.html": "front",
  "app.js": "let a",
  "a.html": "a",
  "404.html": "mine",
  "503.html": "sorry",
  "sub/index.html": "s",
  "list/x.txt": "x",
  "empty/x.bak": "",
};
const MOUNT = {
  source: memorySource(TREE),
  impliedExtensions: [".html"],
  errorPages: { 404: "/404.html" },
  withheld: ["*.bak"],
  areas: { "/list": { listing: true } },
};

/** A source of which some calls fail, as a device does. */
function failing(
  tree: Record<string, string>,
  fails: Partial<Record<"read" | "digest", (path: string) => boolean>>,
): FileSource {
  const source = memorySource(tree);
  const lose = async (): Promise<never> => {
    throw new Error("EIO: the device is gone");
  };
  return {
    ...source,
    async open(path) {
      const found = await source.open(path);
      if (found.kind !== "file") return found;
      const file: OpenedFile = {
        ...found.file,
        read: fails.read?.(path) ? lose : found.file.read,
        digest: fails.digest?.(path) ? lose : found.file.digest,
      };
      return { kind: "file", file };
    },
  };
}

describe("what every answer owes is added at one exit", () => {
  const ROWS: [
    sentence: string,
    request: string,
    headers: Record<string, string>,
    status: number,
    more: Record<string, string>,
  ][] = [
    ["a file", "GET /app.js", {}, 200, {}],
    ["HEAD", "HEAD /app.js", {}, 200, {}],
    ["a part", "GET /app.js", { range: "bytes=0-1" }, 206, {}],
    ["a target that cannot be read", "GET /%zz", {}, 400, {}],
    ["a method that reads nothing", "DELETE /app.js", {}, 405, { allow: "GET, HEAD, OPTIONS" }],
    ["OPTIONS", "OPTIONS /app.js", {}, 204, { allow: "GET, HEAD, OPTIONS" }],
    ["OPTIONS of the whole server", "OPTIONS *", {}, 204, { allow: "GET, HEAD, OPTIONS" }],
    ["a redirect", "GET /sub", {}, 301, { location: "./sub/" }],
    ["a precondition that fails", "GET /app.js", { "if-match": '"no"' }, 412, {}],
    [
      "a part that is not there",
      "GET /app.js",
      { range: "bytes=99-" },
      416,
      { "content-range": "bytes */5" },
    ],
    ["an error page of one's own", "GET /nope", {}, 404, { "content-length": "4" }],
    ["what is withheld", "GET /empty/x.bak", {}, 404, { "content-length": "4" }],
    ["a directory that shows nothing", "GET /empty/", {}, 403, {}],
    ["a listing", "GET /list/", { accept: "application/json" }, 200, {}],
    ["a listing's precondition that fails", "GET /list/", { "if-match": '"no"' }, 412, {}],
    ["an address outside of every mount", "GET /", {}, 404, {}],
  ];
  const open = (crossOrigin: SiteConfig["crossOrigin"], sentence: string): Promise<Site> =>
    openSite({ crossOrigin, mounts: [{ ...MOUNT, at: sentence.includes("outside") ? "/elsewhere" : "/" }] });

  test.each(ROWS)("%s", async (sentence, request, headers, status, more) => {
    for (const crossOrigin of ["*", [ORIGIN]] as const) {
      const { answer, fields } = await ask(
        await open(crossOrigin as SiteConfig["crossOrigin"], sentence),
        request,
        { ...headers, origin: ORIGIN },
      );
      expect(answer.kind === "response" && answer.status).toBe(status);
      expect(fields).toMatchObject({
        ...more,
        "x-content-type-options": "nosniff",
        "access-control-allow-origin": crossOrigin === "*" ? "*" : ORIGIN,
        "cross-origin-resource-policy": "cross-origin",
      });
      // RFC 9110 §12.5.5: each member of Vary stands once, and a field that is no list has one line.
      const names =
        answer.kind === "response" ? [...answer.fields].map(({ name }) => name.toLowerCase()) : [];
      expect(names).toEqual([...new Set(names)]);
      expect((fields.vary ?? "").split(", ").includes("Origin")).toBe(crossOrigin !== "*");
    }
    const closed = await ask(await open(false, sentence), request, headers);
    expect(closed.fields["x-content-type-options"]).toBe("nosniff");
    expect(Object.keys(closed.fields).filter((name) => /origin/.test(name))).toEqual([]);
  });

  test("a 304 has the origins' fields, and no nosniff; a field of one's own stands; a preflight is granted or not", async () => {
    const site = await openSite({
      crossOrigin: "*",
      mounts: [
        { ...MOUNT, headers: [{ files: "*.js", set: { "Cross-Origin-Resource-Policy": "same-site" } }] },
      ],
    });
    const first = await ask(site, "GET /app.js");
    expect(first.fields["cross-origin-resource-policy"]).toBe("same-site");
    const again = await ask(site, "GET /app.js", { "if-none-match": first.fields.etag! });
    expect(again.summary).toBe("304 app.js");
    expect(again.fields).toMatchObject({ "access-control-allow-origin": "*", etag: first.fields.etag });
    expect(again.fields["x-content-type-options"]).toBeUndefined();
    const preflight = { origin: ORIGIN, "access-control-request-method": "GET" };
    expect((await ask(site, "OPTIONS /app.js", preflight)).fields).toMatchObject({
      "access-control-allow-methods": "GET, HEAD",
      "access-control-max-age": "600",
    });
    expect(
      (await ask(site, "OPTIONS /app.js", { ...preflight, "access-control-request-method": "PUT" })).fields[
        "access-control-allow-origin"
      ],
    ).toBeUndefined();
  });
});

describe("what cannot be read", () => {
  test.each<
    [
      string,
      Partial<Record<"read" | "digest", (path: string) => boolean>>,
      SiteConfig["validators"],
      string,
      string,
    ]
  >([
    [
      "a digest that fails gets the error page of the rules",
      { digest: (path) => path === "a.html" },
      "content",
      "500 failed",
      "my 500",
    ],
    [
      "a name without meaning that cannot be read, too",
      { read: (path) => path === "unnamed" },
      "metadata",
      "500 failed",
      "my 500",
    ],
    [
      "an error page that fails in its turn leaves the built-in one",
      { digest: (path) => path.endsWith("html") },
      "content",
      "500 failed",
      "500 Internal Server Error",
    ],
  ])("%s", async (_sentence, fails, validators, summary, body) => {
    const source = failing({ "a.html": "a", unnamed: "u", "500.html": "my 500" }, fails);
    const site = await openSite({
      mounts: [{ source, validators, charset: "", errorPages: { 500: "/500.html" } }],
    });
    const asked = await ask(site, fails.read ? "GET /unnamed" : "GET /a.html");
    expect([asked.summary, asked.body.slice(0, body.length)]).toEqual([summary, body]);
  });

  test.each<[string, string, Found, string]>([
    [
      "a default document that may not be read",
      "/",
      { kind: "forbidden", cause: "EACCES" },
      "403 no-permission",
    ],
    ["the same, without the slash", "/sub", { kind: "forbidden", cause: "EACCES" }, "403 no-permission"],
    ["an implied extension's file", "/about", { kind: "forbidden", cause: "EACCES" }, "403 no-permission"],
    ["a name itself", "/index.html", { kind: "forbidden", cause: "EACCES" }, "403 no-permission"],
    ["an app shell", "/deep/link", { kind: "failed", cause: "EIO", busy: false }, "500 failed"],
    [
      "a process without descriptors",
      "/index.html",
      { kind: "failed", cause: "EMFILE", busy: true },
      "503 busy",
    ],
    ["a pipe", "/index.html", { kind: "special" }, "404 special"],
  ])("%s ends the search, and nothing stands in for it", async (_sentence, target, found, summary) => {
    const source = memorySource({
      "index.html": "",
      "sub/index.html": "",
      "about.html": "",
      "other.html": "",
    });
    const open = (path: string) =>
      /(?:index|about)\.html$/.test(path) && found.kind !== "file"
        ? found
        : path === "deep/link"
          ? source.open("none")
          : source.open(path);
    const site = await openSite({
      mounts: [
        { source: { ...source, open }, impliedExtensions: [".html"], listing: true, appShell: "/index.html" },
      ],
    });
    expect((await ask(site, `GET ${target}`, { "sec-fetch-mode": "navigate" })).summary).toBe(summary);
  });

  test.each<[string, Partial<OpenedDirectory>, string]>([
    ["cannot be read", { list: async () => ({ kind: "failed", cause: "EIO", busy: false }) }, "500 failed"],
    [
      "cannot be read now",
      { list: async () => ({ kind: "failed", cause: "EMFILE", busy: true }) },
      "503 busy",
    ],
    ["are moved each time they are read", { isInPlace: async () => false }, "503 unsettled"],
  ])("a directory whose names %s", async (_, change, summary) => {
    const site = await openSite({
      mounts: [{ source: changeDirectories(memorySource({ "a.txt": "" }), () => change), listing: true }],
    });
    expect((await ask(site, "GET /")).summary).toBe(summary);
    const walked: string[] = [];
    for await (const { path } of site.files()) walked.push(path);
    expect(walked).toEqual(["/"]);
  });

  test("a rendering of one's own that throws is an error of the server", async () => {
    const render = (): never => {
      throw new Error("no template");
    };
    const site = await openSite({
      mounts: [{ source: memorySource({ "x.txt": "x" }), listing: { render } }],
    });
    expect((await ask(site, "GET /")).summary).toBe("500 failed");
  });

  test("an error page whose reading fails in the delivery still ends", async () => {
    const site = await openSite({
      mounts: [{ source: failing({ "a.html": "a" }, {}), errorPages: { 404: "/a.html" } }],
    });
    const failed = await site.respondFailed({ method: "GET", target: "/x", headers: {} }, "gone");
    expect([
      failed.kind === "response" && failed.status,
      failed.reason,
      fieldsOf(failed)["content-type"],
    ]).toEqual([500, { code: "failed", subject: "gone" }, "text/plain; charset=utf-8"]);
    expect(
      (await site.respondFailed({ method: "GET", target: "/%zz", headers: {} }, "gone")).reason.code,
    ).toBe("failed");
  });
});

describe("a Fetch request that is aborted lets go of its file", () => {
  const FILES = { "a.bin": "x".repeat(200_000) };
  const request = (signal: AbortSignal): Request => new Request("http://larkholm.invalid/a.bin", { signal });

  test("before its answer", async () => {
    const controller = new AbortController();
    const source = memorySource(FILES);
    const slow = {
      ...source,
      open: (path: string) =>
        new Promise<Awaited<ReturnType<FileSource["open"]>>>((resolve) =>
          setTimeout(() => resolve(source.open(path)), 30),
        ),
    };
    const answering = webHandler(await openSite({ mounts: [{ source: slow }] }))(request(controller.signal));
    controller.abort();
    await expect(answering).rejects.toThrow("aborted");
  });

  test("while it is read, after its end, and by a consumer that cancels", async () => {
    const handler = webHandler(await openSite({ mounts: [{ source: memorySource(FILES) }] }));
    const controller = new AbortController();
    const response = await handler(request(controller.signal));
    await response!.body!.getReader().read();
    controller.abort();
    expect((await (await handler(request(new AbortController().signal)))!.arrayBuffer()).byteLength).toBe(
      200_000,
    );
    await (await handler(request(new AbortController().signal)))!.body!.cancel();
  });
});

test("the name that a route saves under replaces the rule's, and no field whose value is the field's name", async () => {
  const source = memorySource({ "a.csv": "a" });
  const site = await openSite({
    mounts: [
      {
        source,
        downloads: ["*.csv"],
        headers: [{ files: "*.csv", set: { "X-About": "Content-Disposition", "X-Next": "kept" } }],
      },
    ],
  });
  const answer = await site
    .file("/a.csv", { saveAs: "b.csv" })
    .respond({ method: "GET", target: "/x", headers: {} });
  expect(fieldsOf(answer)).toMatchObject({
    "content-disposition": 'attachment; filename="b.csv"',
    "x-about": "Content-Disposition",
    "x-next": "kept",
  });
  if (answer.kind === "response") await readPlan(answer);
});
