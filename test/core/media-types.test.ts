import { createHash } from "node:crypto";
import { readdirSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { STYLE, STYLE_DIGEST } from "../../src/core/answer/built-in-page.js";
import { chooseMediaType, prefersHtml } from "../../src/core/fields/accept.js";
import { readCharset } from "../../src/core/media-types/charset.js";
import { decideMediaType, formatContentType } from "../../src/core/media-types/media-type.js";
import { MEDIA_TYPES } from "../../src/core/media-types/table.js";
import { isMediaType, parseTypesText } from "../../src/core/media-types/text-format.js";
import { memorySource } from "../../src/index.js";
import { openSite } from "../counting-source.js";
import { ask } from "../helpers.js";

const HERE = { words: "here", place: "here", by: "developer" } as const;

describe("the field Content-Type", () => {
  test.each([
    ["text names its charset", "a.html", "text/html; charset=utf-8"],
    ["RFC 9239 JavaScript", "a.js", "text/javascript; charset=utf-8"],
    ["a module", "a.mjs", "text/javascript; charset=utf-8"],
    ["RFC 8259 §11 JSON has no charset", "a.json", "application/json"],
    ["a manifest", "site.webmanifest", "application/manifest+json"],
    ["RFC 7946 GeoJSON", "a.geojson", "application/geo+json"],
    ["WebVTT has no charset", "a.vtt", "text/vtt"],
    ["a drawing says its encoding itself", "a.svg", "image/svg+xml"],
    ["WebAssembly", "a.wasm", "application/wasm"],
    ["RFC 8081 a font", "a.woff2", "font/woff2"],
    ["case does not matter", "PHOTO.JPG", "image/jpeg"],
    ["only the last part of a path counts", "a.html/b.png", "image/png"],
    ["no extension", "LICENSE", "nothing"],
    ["an extension nobody registered", "a.larkholm", "nothing"],
    ["a leading dot is no extension", ".html", "nothing"],
    ["a leading dot in a folder is no extension", "dir/.html", "nothing"],
    ["a trailing dot is no extension", "a.", "nothing"],
    ["an added type goes before the table", "a.txt", "text/x-note; charset=utf-8"],
    ["the longest known extension wins", "a.tar.gz", "application/x-tgz"],
  ])("%s", (sentence, name, expected) => {
    const added = new Map(
      /added|longest/.test(sentence)
        ? [
            ["txt", { type: "text/x-note", said: HERE }],
            ["tar.gz", { type: "application/x-tgz", said: HERE }],
          ]
        : [],
    );
    expect(formatContentType(decideMediaType(name, added)?.type ?? "nothing", "utf-8")).toBe(expected);
  });

  test("every type of the table is well-formed, and everything in the demo has one", () => {
    expect(MEDIA_TYPES.size).toBeGreaterThan(90);
    for (const type of MEDIA_TYPES.values()) expect(isMediaType(type)).toBe(true);
    const names = readdirSync("demo/site", { recursive: true, withFileTypes: true }).filter((e) =>
      e.isFile(),
    );
    expect(names.length).toBeGreaterThan(40);
    for (const { name } of names)
      expect(decideMediaType(name, new Map())).not.toBe("application/octet-stream");
  });

  test("a types file is read line by line, and what cannot be read is said", () => {
    const { types, problems } = parseTypesText(
      "# types\ntext/x-bird  brd BIRD # note\nnonsense brd\n\naudio/x-call call",
    );
    expect(Object.fromEntries(types)).toEqual({
      brd: "text/x-bird",
      bird: "text/x-bird",
      call: "audio/x-call",
    });
    expect(problems).toEqual([{ line: 3, found: "nonsense" }]);
  });
});

describe("RFC 9110 §12.5.1, Accept", () => {
  const OFFERED = ["text/plain", "text/html", "application/problem+json"] as const;
  test.each([
    ["nothing sent", undefined, "text/plain"],
    ["anything", "*/*", "text/plain"],
    ["a browser", "text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8", "text/html"],
    ["weights decide", "text/html;q=0.4, application/problem+json;q=0.5", "application/problem+json"],
    ["the most specific range decides", "text/*;q=0.9, text/html;q=0.1, */*;q=0.2", "text/plain"],
    ["refused with q=0", "text/plain;q=0, */*;q=0.1", "text/html"],
    ["nothing acceptable", "image/png", undefined],
    ["a named type goes before one that is let in", "text/html, */*", "text/html"],
    ["what clients of an API send", "application/problem+json, */*", "application/problem+json"],
    ["a malformed entry is left out", "text/html;q=high, */*;q=0.1, ;;,", "text/plain"],
    ["parameters are not types", 'text/html;level="a,b"', "text/html"],
  ])("%s", (_sentence, accept, expected) => {
    expect(chooseMediaType(accept, OFFERED)).toBe(expected);
  });

  test.each([
    ["a navigation", "text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8", true],
    ["a script's fetch", "*/*", false],
    ["a picture", "image/avif,image/webp,*/*;q=0.8", false],
    ["JSON before HTML", "application/json, text/html;q=0.5", false],
    ["nothing sent", undefined, false],
    ["HTML refused", "text/html;q=0", false],
  ])("HTML is preferred: %s", (_sentence, accept, expected) => {
    expect(prefersHtml(accept)).toBe(expected);
  });

  test("any field is read without throwing, and the choice agrees with a model that weighs each type by itself", () => {
    const range = fc.tuple(
      fc.constantFrom("text/plain", "text/html", "text/*", "*/*", "image/png"),
      fc.nat(10),
    );
    fc.assert(
      fc.property(fc.uniqueArray(range, { selector: ([name]) => name, minLength: 1 }), (entries) => {
        const weights = new Map<string, number>(entries);
        const weigh = (type: string): number =>
          weights.get(type) ??
          (type.startsWith("text/") ? weights.get("text/*") : undefined) ??
          weights.get("*/*") ??
          0;
        const best = Math.max(...OFFERED.map(weigh));
        const equals = OFFERED.filter((type) => weigh(type) === best);
        const named =
          equals.find((type) => weights.has(type)) ??
          equals.find((type) => type.startsWith("text/") && weights.has("text/*"));
        const expected = best === 0 ? undefined : (named ?? equals[0]);
        expect(
          chooseMediaType(entries.map(([name, tenths]) => `${name};q=${tenths / 10}`).join(", "), OFFERED),
        ).toBe(expected);
      }),
    );
    fc.assert(fc.property(fc.string({ unit: "binary" }), (text) => void chooseMediaType(text, OFFERED)));
  });
});

test("the policy of built-in pages lets their own style through, by its digest", () => {
  expect(createHash("sha256").update(STYLE).digest("base64")).toBe(STYLE_DIGEST);
});

describe("the charset that a text says it is in goes before the one that is said of all texts", () => {
  const utf16 = (text: string, big: boolean): Uint8Array => {
    const bytes = Buffer.from(`\ufeff${text}`, "utf16le");
    return big ? bytes.swap16() : bytes;
  };
  const charsetIn = async (
    name: string,
    content: string | Uint8Array,
    charset = "utf-8",
  ): Promise<string | undefined> => {
    const site = await openSite({ charset, mounts: [{ source: memorySource({ [name]: content }) }] });
    const { fields, answer } = await ask(site, `GET /${name}`);
    const because = answer.kind === "response" ? [...answer.fields][0]!.because : "";
    return `${fields["content-type"]} < ${because.replace(/.*charset: /, "")}`;
  };

  test.each<[string, string, string | Uint8Array, string]>([
    [
      "a byte order mark of UTF-16",
      "a.html",
      utf16("<p>a", false),
      "text/html; charset=utf-16 < its byte order mark",
    ],
    [
      "the other one: an address, a configuration file, a folder or a seal file",
      "a.csv",
      utf16("a,b", true),
      "text/csv; charset=utf-16 < its byte order mark",
    ],
    [
      "a mark of UTF-8, before a page's own word",
      "a.html",
      '\ufeff<meta charset="latin1">',
      "text/html; charset=utf-8 < its byte order mark",
    ],
    ["half a mark is none", "a.txt", new Uint8Array([0xff]), "text/plain; charset=utf-8 < site"],
    [
      "an XML declaration",
      "unnamed",
      '<?xml version="1.0" encoding="ISO-8859-1"?><a/>',
      "text/xml; charset=iso-8859-1 < its XML declaration",
    ],
    [
      "an XML declaration with blanks in it",
      "unnamed",
      "<?xml version='1.0'\tencoding \n= 'ISO-8859-1' ?><a/>",
      "text/xml; charset=iso-8859-1 < its XML declaration",
    ],
    [
      "a declaration without an encoding",
      "unnamed",
      '<?xml version="1.0"?><a b="encoding=\'x\'"/>',
      "text/xml; charset=utf-8 < site",
    ],
    [
      "a declaration that is no first thing",
      "a.txt",
      ' <?xml version="1.0" encoding="latin1"?>',
      "text/plain; charset=utf-8 < site",
    ],
    [
      "a style sheet's rule",
      "a.css",
      '@charset "windows-1252";p{}',
      "text/css; charset=windows-1252 < its @charset rule",
    ],
    [
      "a rule written in another way is none (CSS Syntax §3.2)",
      "a.css",
      "@charset 'windows-1252';",
      "text/css; charset=utf-8 < site",
    ],
    [
      "a page's meta element",
      "a.html",
      "<!doctype html><META name=x><meta charset=ISO-8859-2>",
      "text/html; charset=iso-8859-2 < its meta element",
    ],
    [
      "the old form of it",
      "a.html",
      '<meta http-equiv=content-type content="text/html; charset=koi8-r">',
      "text/html; charset=koi8-r < its meta element",
    ],
    [
      "another attribute that begins like it",
      "a.html",
      "<meta charsetless=latin1><meta data-charset=latin1><p>",
      "text/html; charset=utf-8 < site",
    ],
    ["a comment's is none", "a.html", "<!-- <meta charset=latin1> --><p>", "text/html; charset=utf-8 < site"],
    [
      "UTF-16 in ASCII letters means UTF-8 (HTML §13.2.3.2)",
      "a.html",
      "<meta charset=utf-16>",
      "text/html; charset=utf-8 < its meta element",
    ],
    ["an invalid name", "a.html", '<meta charset="a b\u00e9">', "text/html; charset=a < its meta element"],
    ["a script says nothing", "a.js", '"<meta charset=latin1>"', "text/javascript; charset=utf-8 < site"],
    [
      "too far behind",
      "a.html",
      `${" ".repeat(1024)}<meta charset=latin1>`,
      "text/html; charset=utf-8 < site",
    ],
    ["nothing at all", "a.html", "", "text/html; charset=utf-8 < site"],
  ])("%s", async (_sentence, name, content, expected) => {
    expect(await charsetIn(name, content)).toBe(expected);
  });

  test("where no charset is to be named, none is, whatever the text says", async () => {
    expect(await charsetIn("a.html", utf16("a", false), "")).toMatch(/^text\/html < /);
  });

  test("any bytes are looked at without a fault", () => {
    const start = fc.oneof(
      fc.uint8Array({ maxLength: 40 }),
      fc
        .array(
          fc.constantFrom(
            "<meta ",
            "charset=",
            '"',
            "<!--",
            "-->",
            "<?xml ",
            "encoding=",
            ">",
            "@charset ",
            "x;",
          ),
          { maxLength: 12 },
        )
        .map((parts) => new TextEncoder().encode(parts.join(""))),
    );
    fc.assert(
      fc.property(
        start,
        fc.constantFrom("text/html", "text/css", "text/xml"),
        (bytes, type) => void expect(readCharset(type, bytes)?.charset ?? "none").toMatch(/^[!-~]+$/),
      ),
    );
  });
});
