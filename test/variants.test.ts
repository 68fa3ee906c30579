import fc from "fast-check";
import { afterEach, describe, expect, test } from "vitest";
import { startServer } from "../src/adapters/node.js";
import { fallBack, parseAcceptLanguage } from "../src/core/fields/accept-language.js";
import { type MountConfig, memorySource, type Site } from "../src/index.js";
import { NAVIGATION } from "../src/testing/ask/ask.js";
import { askServer } from "../src/testing/index.js";
import { openSite } from "./counting-source.js";
import { startStandInCache } from "./fixtures/stand-in-cache.js";

// A picture in several formats, and a document in several languages: which one is sent, and what is said about it.
const FILES = {
  "index.html": "hello",
  "index.nb.html": "hei",
  "index.de.html": "hallo",
  "about.html": "about",
  "about.nb.html": "om",
  "plain.html": "one language",
  "view.jpg": "jpeg",
  "view.avif": "avif",
  "view.webp": "webp",
  "old.gif": "gif",
  "old.webp": "webp of old",
  "alone.png": "png",
  "bird.webp": "webp",
  "bird.avif": "avif of bird",
  "data.json": "{}",
  "data.nb.json": "{}",
};
const RULES: MountConfig = { variants: { formats: ["avif", "webp"], languages: ["en", "nb", "de"] } };
const open = (more: MountConfig = {}): Promise<Site> =>
  openSite({ mounts: [{ source: memorySource(FILES), ...RULES, ...more }] });
const CHROME = "image/avif,image/webp,image/apng,image/svg+xml,image/*,*/*;q=0.8";

async function tell(site: Site, target: string, headers: Record<string, string>): Promise<unknown[]> {
  const answer = await site.respond({ method: "GET", target, headers });
  if (answer.kind === "pass") return ["pass"];
  const { fields, body, status, file } = answer;
  if (body.kind === "file") body.file.close();
  return [
    status,
    file,
    ...["Vary", "Content-Location", "Content-Language"].map((name) => fields.get(name) ?? "-"),
  ];
}

describe("a picture goes in the format that is named", () => {
  test.each<[string, string | undefined, string]>([
    ["/view.jpg", CHROME, "avif"],
    ["/view.jpg", "image/webp,image/png,image/*;q=0.8,*/*;q=0.5", "webp"],
    ["/view.jpg", "image/webp, image/avif;q=0.9", "webp"],
    ["/view.jpg", "image/avif;q=0.5, image/jpeg", "jpg"],
    ["/view.jpg", "image/avif;q=0, image/*", "jpg"],
    ["/view.jpg", "image/*,*/*", "jpg"],
    ["/view.jpg", "*/*", "jpg"],
    ["/view.jpg", undefined, "jpg"],
    ["/view.jpg", "text/html", "jpg"],
    ["/view.jpg", "application/x-none", "jpg"],
    ["/view.jpg", "nonsense;;;q=9", "jpg"],
    ["/view.jpg", "IMAGE/AVIF", "avif"],
    ["/old.gif", CHROME, "webp"],
  ])("%s for %s: %s", async (target, accept, format) => {
    const name = target.slice(1).replace(/\.\w+$/, "");
    const isOther = !target.endsWith(format);
    expect(await tell(await open(), target, accept === undefined ? {} : { accept })).toEqual([
      200,
      `${name}.${format}`,
      "Accept",
      isOther ? `./${name}.${format}` : "-",
      "-",
    ]);
  });

  test("what has no variant, and a variant at its own address, depends on nothing", async () => {
    for (const path of ["alone.png", "view.avif", "view.webp", "bird.webp", "data.json", "plain.html"])
      expect(await tell(await open(), `/${path}`, { accept: CHROME, "accept-language": "nb" })).toEqual([
        200,
        path,
        "-",
        "-",
        "-",
      ]);
    const off = await openSite({ mounts: [{ source: memorySource(FILES) }] });
    expect(await tell(off, "/view.jpg", { accept: CHROME })).toEqual([200, "view.jpg", "-", "-", "-"]);
  });
});

describe("a document goes in the language that is wanted", () => {
  test.each<[string, string | undefined, string, string]>([
    ["/", "nb, en;q=0.5", "index.nb.html", "nb"],
    ["/", "nb-NO, en;q=0.5", "index.nb.html", "nb"],
    ["/", "de-CH-x-phonebk;q=0.7, fr", "index.de.html", "de"],
    ["/", "en-GB, nb;q=0.9", "index.html", "en"],
    ["/", "de;q=0.2, nb", "index.nb.html", "nb"],
    ["/", "fr, *", "index.html", "en"],
    ["/", "fr, de;q=0.1", "index.de.html", "de"],
    ["/", "nb;q=0, de;q=0.2", "index.de.html", "de"],
    ["/", undefined, "index.html", "en"],
    ["/", "", "index.html", "en"],
    ["/", "no such, ;;;", "index.html", "en"],
    ["/index.html", "NB", "index.nb.html", "nb"],
    ["/about", "de, nb;q=0.2", "about.nb.html", "nb"],
    ["/about", "de", "about.html", "en"],
  ])("%s for %s: %s", async (target, language, file, told) => {
    const location = told !== "en" ? `./${file}` : target === "/about" ? "./about.html" : "-";
    expect(
      await tell(await open(), target, language === undefined ? {} : { "accept-language": language }),
    ).toEqual([200, file, "Accept-Language", location, told]);
  });

  test("a translation at its own address says its language", async () => {
    expect(await tell(await open(), "/index.nb.html", { "accept-language": "de" })).toEqual([
      200,
      "index.nb.html",
      "-",
      "-",
      "nb",
    ]);
  });

  test("an app shell in two languages, at a deep link", async () => {
    const answer = await tell(await open({ appShell: "/index.html" }), "/records/42", {
      ...NAVIGATION,
      "accept-language": "nb",
    });
    expect(answer).toEqual([200, "index.nb.html", "Accept, Sec-Fetch-Mode, Accept-Language", "-", "nb"]);
  });

  test("any field is read without throwing; a lookup never widens a range", () => {
    fc.assert(
      fc.property(
        fc.string({
          unit: fc.constantFrom("en", "nb", "-", "*", ",", ";", "q=", "0", ".5", "1", " ", "x", '"', "é"),
        }),
        (text) => {
          for (const { range, weight } of parseAcceptLanguage(text)) {
            expect(weight > 0 && weight <= 1).toBe(true);
            for (const tag of fallBack(range))
              expect(range === tag || range.startsWith(`${tag}-`)).toBe(true);
          }
        },
      ),
    );
  });
});

test("each has a tag of its own, is confirmed by it, and comes in parts", async () => {
  const site = await open();
  const ask = async (target: string, headers: Record<string, string>) => {
    const answer = await site.respond({ method: "GET", target, headers });
    if (answer.kind === "pass") throw new Error("passed");
    if (answer.body.kind === "file") answer.body.file.close();
    return answer;
  };
  const tags = await Promise.all(
    [{ accept: CHROME }, { accept: "image/webp" }, {}].map(
      async (headers) => (await ask("/view.jpg", headers as Record<string, string>)).fields.get("ETag")!,
    ),
  );
  expect(new Set(tags).size).toBe(3);
  expect([tags[0]!.endsWith('-avif"'), tags[1]!.endsWith('-webp"')]).toEqual([true, true]);
  const revisit = await ask("/view.jpg", { accept: CHROME, "if-none-match": tags[0]! });
  expect([revisit.status, revisit.fields.get("Vary"), revisit.fields.get("Content-Location")]).toEqual([
    304,
    "Accept",
    "./view.avif",
  ]);
  expect((await ask("/view.jpg", { accept: CHROME, "if-none-match": tags[1]! })).status).toBe(200);
  expect(
    (await ask("/view.jpg", { accept: CHROME, range: "bytes=0-1", "if-range": tags[0]! })).fields.get(
      "Content-Range",
    ),
  ).toBe("bytes 0-1/4");
});

test("the weights are explained", async () => {
  const { trace } = await (await open()).explain({
    method: "GET",
    target: "/view.jpg",
    headers: { accept: "image/webp;q=0.9, */*;q=0.1" },
  });
  expect(trace.find(({ stage }) => stage === "variant")).toEqual({
    stage: "variant",
    field: "Accept",
    weights: ["view.avif not named", "view.webp 0.9", "view.jpg 0.1"],
    chosen: "view.webp",
  });
  const german = await (await open()).explain({
    method: "GET",
    target: "/",
    headers: { "accept-language": "de-AT;q=0.8, fr" },
  });
  expect(german.trace.find(({ stage }) => stage === "variant")).toMatchObject({
    weights: ["en not named", "nb not named", "de 0.8 (de-at)"],
    chosen: "index.de.html",
  });
});

describe("behind a shared cache", () => {
  const closing: (() => unknown)[] = [];
  afterEach(async () => {
    for (const close of closing.splice(0)) await close();
  });

  test("each client gets its own, in every order", async () => {
    const clients = { new: CHROME, middle: "image/webp,*/*;q=0.8", old: "image/*,*/*;q=0.5", none: "*/*" };
    const formats = { new: "image/avif", middle: "image/webp", old: "image/jpeg", none: "image/jpeg" };
    for (const order of [Object.entries(clients), Object.entries(clients).reverse()]) {
      const server = await startServer(await open({ caching: [{ files: "**", policy: { maxAge: "1h" } }] }), {
        port: 0,
      });
      const cache = await startStandInCache([server.url]);
      closing.push(cache.close, () => server.close(0));
      const asker = askServer(cache.url);
      for (const round of [1, 2])
        for (const [client, accept] of order) {
          const { headers } = await asker.ask({
            method: "GET",
            path: "/view.jpg",
            headers: { Accept: accept },
          });
          expect([client, headers["content-type"], headers["x-from"]]).toEqual([
            client,
            formats[client as keyof typeof formats],
            round === 1 ? "server" : "memory",
          ]);
        }
      await asker.close();
    }
  });
});

test.each<[string, MountConfig["variants"], string]>([
  [
    "a dot",
    { formats: [".avif"] },
    'mounts[0].variants.formats[0]: found ".avif"; a format is an extension without its dot: write "avif".',
  ],
  ["no picture", { formats: ["pdf"] }, 'found "pdf"; a format is an extension of pictures'],
  [
    "one language",
    { languages: ["en"] },
    "the first language is for files without one in their names, and others follow: write it as [en, nb].",
  ],
  [
    "no language",
    { languages: ["en", "norsk bokmål"] },
    'found "norsk bokmål"; a language is a tag of RFC 5646',
  ],
  ["twice", { languages: ["en", "nb", "NB"] }, '"nb" is there twice'],
])("stops for %s", async (_title, variants, message) => {
  await expect(open({ variants })).rejects.toThrow(message);
});

test("a language may have a script, a region and more", async () => {
  expect((await open({ variants: { languages: ["en", "zh-Hant-TW", "de-1996"] } })).mounts).toHaveLength(1);
});
