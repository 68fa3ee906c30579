import { connect, createServer } from "node:http2";
import type { AddressInfo } from "node:net";
import fc from "fast-check";
import { afterAll, expect, test } from "vitest";
import { nodeHandler } from "../src/adapters/node.js";
import { readPage } from "../src/reading/pages/page.js";
import { findPreloads } from "../src/reading/pages/preloads.js";
import { atOnce } from "../src/reading/slices.js";

const readPreloads = (html: string) => findPreloads(atOnce(readPage(html, false)));

import { memorySource } from "../src/index.js";
import { openSite } from "./counting-source.js";

// What a page's own head needs at once is said before its bytes are read.
const PAGE = `<!doctype html><head><link rel="stylesheet" href="/s.css"><link rel="preload" as="font" href="/f.woff2" crossorigin><script type="module" src="./m.js"></script></head><body>${"text ".repeat(50)}`;
const LINKS = [
  "</s.css>; rel=preload; as=style",
  "</f.woff2>; rel=preload; as=font; crossorigin",
  "<./m.js>; rel=modulepreload",
];
const closing: (() => unknown)[] = [];
afterAll(() => {
  for (const close of closing) close();
});

test.each<[string, string, string[]]>([
  ["style sheets, modules, and what it preloads", PAGE, LINKS],
  ["nothing of the body", '<body><link rel="stylesheet" href="/late.css">', []],
  [
    "nothing for paper, no alternates, no plain scripts",
    '<link rel=stylesheet media=print href=/p.css><link rel="alternate stylesheet" href=/a.css><script src=/plain.js></script><link rel=icon href=/i.png>',
    [],
  ],
  [
    "a base gives relative addresses another meaning",
    '<base href="/x/"><link rel=stylesheet href=a.css><link rel=stylesheet href=css/a.css><link rel=stylesheet href=/b.css>',
    ["</b.css>; rel=preload; as=style"],
  ],
  [
    "an integrity, and another host",
    '<script type=module src="https://cdn.larkholm.example/m.js" integrity="sha256-abc=" crossorigin="use-credentials"></script>',
    [
      '<https://cdn.larkholm.example/m.js>; rel=modulepreload; crossorigin=use-credentials; integrity="sha256-abc="',
    ],
  ],
  [
    "no address that would leave its place",
    '<link rel=stylesheet href="/a>; rel=x.css"><link rel=stylesheet href="/b c.css"><link rel=stylesheet href="data:text/css,x">',
    [],
  ],
  [
    "an address that only holds such a word",
    '<link rel=stylesheet href="/metadata:1.css">',
    ["</metadata:1.css>; rel=preload; as=style"],
  ],
  [
    "what a link names as a module, and what it does not preload",
    "<link rel=' x  modulepreload' href=/m.js><link rel=preload href=/a.css><link rel=icon as=image href=/i.png><link rel=preload as=track href=/t><link rel='PRELOAD' as=FETCH href=/d.json>",
    ["</m.js>; rel=modulepreload", "</d.json>; rel=preload; as=fetch"],
  ],
  [
    "a base, and what only holds a slash",
    "<base href=/x/><link rel=stylesheet href='a/https:/b.css'><link rel=stylesheet href=HTTPS://a.example/c.css>",
    ["<HTTPS://a.example/c.css>; rel=preload; as=style"],
  ],
  [
    "at most twelve",
    Array.from({ length: 14 }, (_, i) => `<link rel=stylesheet href=/${i}.css>`).join(""),
    Array.from({ length: 12 }, (_, i) => `</${i}.css>; rel=preload; as=style`),
  ],
  [
    "what its media are for",
    "<link rel=stylesheet media=ALL href=/a.css><link rel=preload as=style media=print href=/b.css>",
    ["</a.css>; rel=preload; as=style"],
  ],
])("%s", (_title, html, expected) => {
  expect(readPreloads(html)).toEqual(expected);
});

test("whatever a page says, each value is one link of one line", () => {
  const part = fc.constantFrom(
    "<link rel=stylesheet href=",
    "<link rel=preload as=font href='",
    '<script type=module src="',
    "/a",
    "é",
    ">",
    '"',
    "'",
    ";",
    ",",
    "\n",
    "\\",
    " crossorigin",
    " integrity='",
    "</head>",
    "<base>",
  );
  fc.assert(
    fc.property(fc.array(part, { maxLength: 14 }), (parts) => {
      for (const link of readPreloads(parts.join("")))
        expect(link).toMatch(/^<[\x21-\x3b\x3d\x3f-\x7e]+>(?:; [a-z]+(?:=(?:[a-z-]+|"[\w+/=-]+"))?)+$/);
    }),
  );
});

test("on the answer of a document, and nowhere else; as 103 to a navigation over HTTP/2, kept answers included", async () => {
  const source = memorySource({ "index.html": PAGE, "s.css": "a{}", "plain.html": "<p>" });
  const off = await openSite({ mounts: [{ source }] });
  const site = await openSite({
    mounts: [{ source, preloads: true, caching: [{ files: ["s.css", "m.js"], policy: { maxAge: "1h" } }] }],
  });
  // What is asked about each time is not fetched early: it would be fetched twice.
  const early = [LINKS[0], LINKS[2]].join(", ");
  const linkOf = async (of: typeof site, target: string): Promise<string | undefined> => {
    const answer = await of.respond({ method: "GET", target, headers: {} });
    if (answer.kind === "pass") return "passed";
    if (answer.body.kind === "file") answer.body.file.close();
    return answer.fields.get("Link");
  };
  expect([
    await linkOf(site, "/"),
    await linkOf(site, "/s.css"),
    await linkOf(site, "/plain.html"),
    await linkOf(off, "/"),
  ]).toEqual([LINKS.join(", "), undefined, undefined, undefined]);
  const server = createServer(nodeHandler(site)).listen(0, "127.0.0.1");
  await new Promise((done) => server.once("listening", done));
  const session = connect(`http://127.0.0.1:${(server.address() as AddressInfo).port}`);
  closing.push(
    () => session.destroy(),
    () => server.close(),
  );
  const ask = (headers: Record<string, string>): Promise<{ early: unknown[]; link: unknown }> =>
    new Promise((done) => {
      const early: unknown[] = [];
      const stream = session.request({ ":path": "/", ...headers });
      stream.on("headers", (fields) => early.push(fields[":status"], fields.link));
      stream.on("response", ({ link }) => stream.resume().on("end", () => done({ early, link })));
    });
  for (let turn = 0; turn < 3; turn++) {
    expect(await ask({ "sec-fetch-mode": "navigate" })).toEqual({
      early: [103, early],
      link: LINKS.join(", "),
    });
    expect(await ask({})).toEqual({ early: [], link: LINKS.join(", ") });
  }
});
