import { describe, expect, test } from "vitest";
import { chooseBuiltInPage } from "../src/core/answer/built-in-page.js";
import { refuse } from "../src/core/answer/plan.js";
import { Memory } from "../src/core/memory/memory.js";
import { openSiteMemory } from "../src/core/site.js";
import {
  type EntryMetadata,
  type FileSource,
  memorySource,
  type SiteConfig,
  type SourceEntry,
} from "../src/index.js";
import { type Block, toBlocks, toShortBlocks } from "../src/inspection/explain/blocks.js";
import { describeAnswer, describeStatus } from "../src/inspection/explain/outcome.js";
import { openSite } from "./counting-source.js";
import { ask, changeDirectories } from "./helpers.js";

// What is drawn and told, to the last character. A change that is meant is written anew with `npx vitest run -u test/golden.test.ts`,
// and read in the diff.
const MODIFIED = new Date("2026-09-28T06:30:00Z");
const BROWSER = { accept: "text/html,*/*;q=0.8" };

/** A folder with one of each: what a listing can show. */
function everyKind(): FileSource {
  const source = memorySource(
    {
      "a & b.txt": "text",
      "ringing/2026.csv": "a,b",
      "call.ogg": "x".repeat(1_234_567),
      "<b>.html": "page",
      "tern.png": "",
      "code.js": "",
      "zip.tar.gz": "",
      unnamed: "",
      "\u202egpj.exe": "",
    },
    { modified: MODIFIED },
  );
  const others: Record<string, EntryMetadata["kind"] | undefined> = {
    "lost-link": undefined,
    pipe: "special",
    locked: "unreadable",
  };
  return changeDirectories(source, (path, own) => ({
    list: async () => [
      ...((await own.list()) as readonly SourceEntry[]),
      ...(path === "" ? Object.keys(others).map((name) => ({ name, kind: others[name] })) : []),
    ],
    stat: async (name) =>
      name in others ? others[name] && { kind: others[name], sizeBytes: 0, modifiedNs: 0n } : own.stat(name),
  }));
}

describe("a listing", () => {
  test.each<[string, SiteConfig["mounts"][number]["listing"], string, Record<string, string>]>([
    ["plain", true, "/", BROWSER],
    ["ordered", true, "/?order=size&descending", BROWSER],
    ["json", true, "/?order=kind", { accept: "application/json" }],
    ["text", true, "/", { accept: "text/plain" }],
    [
      "themed",
      {
        title: "Larkholm <archive>",
        header: "Records & calls",
        footer: "by the observatory",
        styleSheet: "/own.css",
        nameFilter: false,
        order: "time",
      },
      "/ringing/",
      BROWSER,
    ],
  ])("%s", async (name, listing, path, headers) => {
    const site = await openSite({
      mounts: [{ source: everyKind(), listing, caching: [{ files: "**", policy: "immutable" }] }],
    });
    const { body, fields } = await ask(site, `GET ${path}`, headers);
    const { etag, "content-length": _length, ...others } = fields;
    expect(etag).toMatch(/^W\/"[0-9a-z]{8,14}"$/);
    const head = Object.entries(others).map(([field, value]) => `${field}: ${value}\n`);
    await expect(
      `${head.join("")}\n${body.replace(/<style>[^<]*<\/style>|<script>.*?<\/script>/gs, "")}`,
    ).toMatchFileSnapshot(`fixtures/golden/listing-${name}.txt`);
  });

  test("pages", async () => {
    const site = await openSite({
      mounts: [
        {
          source: memorySource(Object.fromEntries(Array.from({ length: 25 }, (_, i) => [`n${i}.txt`, ""])), {
            modified: MODIFIED,
          }),
          listing: { pageSize: 10 },
        },
      ],
    });
    const foot = async (page: number): Promise<string> =>
      /<div class="pages">.*<\/div>/.exec((await ask(site, `GET /?page=${page}`, BROWSER)).body)![0];
    await expect([await foot(1), await foot(2), await foot(3)].join("\n")).toMatchFileSnapshot(
      "fixtures/golden/listing-pages.txt",
    );
  });
});

test("built-in bodies, each status in each form", async () => {
  const { pages } = openSiteMemory(new Memory());
  const all = [400, 403, 404, 405, 412, 416, 500, 503, 418].flatMap((status) =>
    ["text/plain", "text/html", "application/problem+json"].map((accept) => {
      const { fields, bytes } = chooseBuiltInPage(
        pages,
        { method: "GET", target: "/nope", headers: { accept } },
        refuse(status, { code: "no-such-file" }),
      );
      return `${[...fields].map(({ name, value }) => `${name}: ${value}`).join("\n")}\n\n${new TextDecoder().decode(bytes).replace(/<style>[^<]*<\/style>/, "")}`;
    }),
  );
  await expect(all.join("\n")).toMatchFileSnapshot("fixtures/golden/built-in-pages.txt");
});

test("explanations: each stage, each rule, each field with what decided it, and for an error what to do", async () => {
  const tree = {
    "index.html": "<h1>x",
    "404.html": "gone",
    "guide/redshank.html": "r".repeat(2000),
    "guide/redshank.html.br": "r",
    "a.bak": "b",
    "records/season.csv": "a,b",
    "home/home.html": "h",
    "About.html": "a",
  };
  const site = await openSite({
    crossOrigin: ["https://larkholm.example"],
    mounts: [
      {
        source: memorySource(tree, { modified: MODIFIED }),
        impliedExtensions: [".html"],
        errorPages: { 404: "/404.html" },
        withheld: ["*.bak"],
        codings: { prebuilt: ["br"] },
        caching: [
          {
            files: "*.csv",
            policy: {
              maxAge: "1h",
              sharedMaxAge: "1d",
              staleWhileRevalidate: "1w",
              staleIfError: 60,
              mustRevalidate: true,
              immutable: true,
              noTransform: true,
            },
            cdn: "no-store",
          },
          { files: "guide/**", policy: "revalidate" },
        ],
        headers: [{ files: "*.html", set: { "X-Frame-Options": "DENY" } }],
        downloads: [{ files: "*.csv", saveAs: "Larkholm.csv" }],
        mediaTypes: { ".csv": "text/x-records" },
        areas: {
          "/records": {
            listing: { pageSize: 20 },
            whenMissing: "pass",
            appShell: { file: "/index.html", except: ["/records/api"] },
            notListed: ["*.map"],
            charset: "iso-8859-1",
            validators: "content",
          },
        },
      },
      { at: "/docs", source: memorySource({}) },
    ],
  });
  const asked: [request: string, headers: Record<string, string>][] = [
    ["GET /guide/redshank?from=mail", { "accept-encoding": "br", origin: "https://larkholm.example" }],
    ["GET /records/season.csv", { range: "bytes=0-1" }],
    ["GET /records/deep", { "sec-fetch-mode": "navigate" }],
    ["GET /records/api/x", { "sec-fetch-mode": "navigate" }],
    ["GET /records/", { accept: "application/json" }],
    ["GET /guide/redshank", { "if-match": '"x"' }],
    ["GET /guide", {}],
    ["GET /home/", {}],
    ["GET /about.html", {}],
    ["GET /a.bak", {}],
    ["GET /guide/redshank.html/", {}],
    ["GET /guide//x", {}],
    ["GET /%zz", {}],
    ["GET /a%2fb", {}],
    ["DELETE /guide/redshank", {}],
    ["OPTIONS *", {}],
    ["GET /pass/none", {}],
  ];
  const told: string[] = [];
  for (const [request, headers] of asked) {
    const [method, target] = request.split(" ") as [string, string];
    const explanation = await site.explain({ method, target, headers, mayPass: target.startsWith("/pass") });
    const show = (blocks: readonly Block[]): string[] =>
      blocks.flatMap(({ title, rows }) => rows.map((row) => `  ${title}: ${row.join(" | ")}`));
    const short = show(toShortBlocks(explanation, ["caching", "media type", "Vary"])).map(
      (line) => `  in short,${line}`,
    );
    told.push(
      [
        `${request} ${JSON.stringify(headers)}: ${describeStatus(explanation.answer)}`,
        `  answer: ${describeAnswer(explanation.answer, explanation.trace)}`,
        ...show(toBlocks(explanation, { all: request.includes("redshank?") })),
        ...short,
        `  why: ${explanation.why}`,
        ...explanation.hints.map((hint) => `  hint: ${hint}`),
      ].join("\n"),
    );
  }
  await expect(`${told.join("\n\n")}\n`).toMatchFileSnapshot("fixtures/golden/explanations.txt");
});
