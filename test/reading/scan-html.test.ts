import fc from "fast-check";
import { expect, test } from "vitest";
import type { PageElement } from "../../src/reading/pages/element.js";
import { readPage } from "../../src/reading/pages/page.js";
import { findReferences } from "../../src/reading/pages/references.js";
import { Resolver } from "../../src/reading/pages/resolve.js";
import { scanHtml } from "../../src/reading/pages/scan-html.js";
import { atOnce } from "../../src/reading/slices.js";

const BASE = "http://a.invalid/guide/waders/";

/** What a page names, and can be named by: each once, since the parser repeats elements that are closed in the wrong order. */
function tellAll(elements: readonly PageElement[]): string[] {
  const references = findReferences({ elements }, BASE, { all: true });
  const anchors = elements.flatMap(({ attributes }) =>
    attributes.has("id") ? [`#${attributes.get("id")}`] : [],
  );
  const named = references.map(
    ({ url, fragment, element, width }) => `${element} ${url} ${fragment} ${width}`,
  );
  return [...new Set([...named, ...anchors])].sort();
}

function scan(text: string): PageElement[] | undefined {
  const elements: PageElement[] = [];
  const isSure = scanHtml(text, (one) => elements.push({ ...one, attributes: new Map(one.attributes) }));
  return isSure ? elements : undefined;
}

const pieces = [
  ..."<a href=b> <A HREF='c.html#d'> </a> <img src=e.png width=20> <p id=f> </p> <div> </div> <br/> <base href=/g/> <svg> </svg>".split(
    " ",
  ),
  ..."<use xlink:href='#h' /> <path d=''/> <title> </title> <style> </style> <script> </script> <script src=i.js> <noscript>".split(
    " ",
  ),
  ..."</noscript> <!-- --> <!--> --!> <table> </table> <tr> <td id=j> <template> </template> <select> <option> <body> <html>".split(
    " ",
  ),
  ..."<textarea> </textarea> <iframe src=k> </iframe> <math> <frameset> <!doctype <?x <![CDATA[ ]]> </ < > \" ' = & &amp; &lt;".split(
    " ",
  ),
  "<a href='l?m=1&copy=2&amp;n'>",
  '<img srcset="o.png 1x, p.png 2x">',
  "<link rel=stylesheet href=q.css>",
  "<a\nhref\t=\r\n'r'>",
  "<a b'c=1 href=s>",
  '<p style="background:url(t.png)">',
  "<meta http-equiv=refresh content='1; url=u'>",
  "</noscript x='>'>",
  "<form><form>",
  "<image src=v>",
  " text ",
  "<script><!--",
  "<script>if (a<b) '<a href=w>'</script>",
  "<a href='x' href='y'>",
  "<area href=z>",
  "</svg>",
  "<foreignObject>",
  "<desc>",
  "</desc>",
];

test("what is scanned of a page is what the standard's parser finds in it", () => {
  let sure = 0;
  fc.assert(
    fc.property(fc.array(fc.constantFrom(...pieces), { maxLength: 14 }), (chosen) => {
      const text = chosen.join("");
      const scanned = scan(text);
      if (scanned === undefined) return;
      sure++;
      const [found, wanted] = [tellAll(scanned), tellAll(atOnce(readPage(text, false)).elements)];
      // What ends a noscript early, such as another paragraph, is not in it to the parser.
      expect(text.includes("<noscript") ? found.filter((one) => wanted.includes(one)) : found).toEqual(
        wanted,
      );
    }),
    // What closes an element around a drawing ends the drawing.
    { numRuns: 20_000, examples: [[['<a href="b">', "<svg>", "</a>", "<image src=v>"]]] },
  );
  // A scanner that is never sure would be right, too.
  expect(sure).toBeGreaterThan(2000);
});

test("an address of plain letters is resolved as the platform does", () => {
  // Not ".h": beside it, the platform of Node 20 leaves ".." in an address.
  const segment = fc.constantFrom("..", ".", "", "a", "b.html", "c~d", "-e", "f_g");
  const address = fc.array(segment, { minLength: 1, maxLength: 7 }).map((all) => all.join("/"));
  fc.assert(
    fc.property(address, fc.constantFrom("", "#", "#j"), address, (written, hash, base) => {
      const from = URL.canParse(base, BASE) ? new URL(base, BASE).href : BASE;
      const wanted = URL.canParse(written, from) ? new URL(written, from) : undefined;
      const found = new Resolver(from).resolve(written + hash);
      if (written === "") expect(found?.url).toBe(hash === "" ? undefined : from);
      else expect(found?.url).toBe(wanted?.protocol === "http:" ? wanted.href : undefined);
    }),
    { numRuns: 5000 },
  );
});
