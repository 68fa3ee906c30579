import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import fc from "fast-check";
import type { Page } from "playwright-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { type NodeHandler, nodeHandler } from "../../src/adapters/node.js";
import { memorySource, openSite, releasePlan, type Site } from "../../src/index.js";
import { openBrowser } from "./browser.js";

// What a browser finds in a page, and what its policy was made of, are the same: whatever the page looks like.
const PIECES = [
  "<script>a()~</script>~<script>~<script type=module>b()</script>~<script type=x>no</script>~<script type=''>c()</script>~<script language=vb>no</script>~<script language=JavaScript>d()</script>~<script x=1",
  "<!--~-->~--!>~<!-- <script> ~<!--<script>e()</script>~<style>p{color:red}</style>~<style>~</style>~<p style='top:0'>~<p style=''>~<p style=' '>~<p onclick=' '>~<script> </script>~<style></style>~<script></script>~<p onclick='f()'>~<body onload=g()>~<body style=left:0>~<html style=right:0>",
  "<noscript>~</noscript>~<noscript><style>q{}</style></noscript>~<title>~</title>~<textarea>~</textarea>~<xmp>~</xmp>~<iframe>~</iframe>~<template>~</template>~<template shadowrootmode=open><style>r{}</style>",
  "<svg>~</svg>~<svg><script>h()</script>~<svg><style>s{}</style>~<svg><title><style>t{}</style>~<foreignObject>~<math>~</math>~<mtext>~<annotation-xml encoding=text/html>~<mglyph>~<desc>",
  "<![CDATA[~]]>~<table>~</table>~<tr>~<td>~<select>~</select>~<option>~<b>~</b>~<i>~<a>~<div>~</div>~<p>~<frameset>~<plaintext>~<form>~</form>~<button>~</p>~</br>~<head>~</head>~<body>",
  `&lt;~&#60;~&amp~é~\0~\r\n~\r~\n~ ~'~"~>~<~/~=~<iframe srcdoc="&lt;script>i()&lt;/script>"></iframe>~<iframe srcdoc='<style>u{}</style><p style="x:y">'></iframe>~<?php j() ?>~<!doctype html>~<p title="</noscript><script>k()</script>">`,
].flatMap((line) => line.split("~"));

/** How many pages are tried; more on request. */
const PAGES = Number(process.env.EPISTYLE_PAGES ?? 40);
const page = fc.string({ unit: fc.constantFrom(...PIECES), minLength: 1, maxLength: 14 });

let handler: NodeHandler;
const server = createServer((request, response) => handler(request, response));
let browser: Awaited<ReturnType<typeof openBrowser>>;
let tab: Page;
let site: Site;

beforeAll(async () => {
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  browser = await openBrowser();
  tab = await browser.context.newPage();
  await tab.addInitScript(() => {
    const seen = window as unknown as { blocked: string[] };
    seen.blocked = [];
    document.addEventListener("securitypolicyviolation", ({ effectiveDirective, blockedURI, sample }) =>
      seen.blocked.push(`${effectiveDirective} ${blockedURI} ${sample}`),
    );
  });
});
afterAll(async () => {
  await browser.close();
  server.close();
});

/** Opens a file in the browser. Returns what its policy blocked, and what explain says about the policy. */
async function open(
  name: string,
  bytes: Uint8Array,
): Promise<{ blocked: string[]; told: readonly string[] }> {
  site = await openSite({ mounts: [{ source: memorySource({ [name]: bytes }), protect: true }] });
  handler = nodeHandler(site);
  await tab.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/${name}`);
  const frames = await Promise.all(
    tab
      .frames()
      .map((frame) => frame.evaluate(() => (window as unknown as { blocked?: string[] }).blocked ?? [])),
  );
  const { hints } = await site.explain({ method: "GET", target: `/${name}`, headers: {} });
  return { blocked: frames.flat(), told: hints.filter((hint) => hint.includes("policy")) };
}

test("no page is stopped by the policy that was made of it", { timeout: 120_000 }, async () => {
  await fc.assert(
    fc.asyncProperty(page, async (html) => {
      const { blocked, told } = await open("a.html", new TextEncoder().encode(html));
      if (told.length === 0) expect(blocked).toEqual([]);
    }),
    { numRuns: PAGES },
  );
});

const XHTML = 'xmlns="http://www.w3.org/1999/xhtml"';
const SVG = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"';
const XML_PIECES =
  `<h:script xmlns:h="http://www.w3.org/1999/xhtml">a()</h:script>~<script ${XHTML}>b()</script>~<script>no</script>~<script ${XHTML}><![CDATA[c("<")]]></script>~<script ${XHTML}>d()<!-- x -->e()</script>~<style ${XHTML}>p{}</style>~<p ${XHTML} style="a:b" onclick="f()"/>~<svg ${SVG}><script>g()</script></svg>~<svg ${SVG}><style>r{}</style><g style="c:d"/></svg>~<svg ${SVG}><script xlink:href="none.js">no</script></svg>~<a>~</a>~<b>~</b>~&lt;~&#60;~&nbsp;~é~<!--~-->~<![CDATA[~]]>~<?php j() ?>~\r\n~ ~<script ${XHTML}>h()\r\n</script>~<script ${XHTML} type="x">no</script>`.split(
    "~",
  );
const XML_HEADS = [
  "",
  '<?xml version="1.0"?>',
  "<!DOCTYPE html>",
  '<!DOCTYPE r [<!ENTITY nbsp "i()">]>',
  '<!DOCTYPE html PUBLIC "-//W3C//DTD XHTML 1.0 Strict//EN" "http://www.w3.org/TR/xhtml1/DTD/xhtml1-strict.dtd">',
];

test("no XML document is stopped by its policy, whatever its type", { timeout: 120_000 }, async () => {
  const body = fc.string({ unit: fc.constantFrom(...XML_PIECES), minLength: 1, maxLength: 8 });
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom("a.xml", "a.xhtml", "a.svg", "a.rss", "a.atom"),
      fc.constantFrom(...XML_HEADS),
      body,
      async (name, head, xml) => {
        const { blocked, told } = await open(name, new TextEncoder().encode(`${head}<r>${xml}</r>`));
        expect((await answerOf(`/${name}`)).get("Content-Security-Policy")).toContain("default-src 'self'");
        // What the browser itself shows of a mistake is styled by attributes.
        const isBroken = (await tab.locator("parsererror").count()) > 0;
        if (told.length === 0)
          expect(blocked.filter((one) => !isBroken || !one.startsWith("style-src-attr"))).toEqual([]);
      },
    ),
    { numRuns: PAGES / 2 },
  );
});

async function answerOf(target: string) {
  const answer = await site.respond({ method: "GET", target, headers: {} });
  if (answer.kind === "pass") throw new Error("passed on");
  releasePlan(answer);
  return answer.fields;
}

const CHARSETS =
  "utf-8,windows-1252,iso-8859-1,ibm866,iso-8859-2,iso-8859-3,iso-8859-4,iso-8859-5,iso-8859-6,iso-8859-7,iso-8859-8,iso-8859-8-i,iso-8859-10,iso-8859-13,iso-8859-14,iso-8859-15,iso-8859-16,koi8-r,koi8-u,macintosh,windows-874,windows-1250,windows-1251,windows-1253,windows-1254,windows-1255,windows-1256,windows-1257,windows-1258,x-mac-cyrillic,gbk,gb18030,big5,euc-jp,iso-2022-jp,shift_jis,euc-kr,x-user-defined,iso-2022-kr,utf-7,x-bird";

test.each(CHARSETS.split(","))("bytes are read as the browser reads them: %s", async (charset) => {
  const every = Buffer.concat([
    Buffer.from(`<meta charset=${charset}><script>"`),
    Uint8Array.from({ length: 128 }, (_, i) => i + 128),
    Buffer.from('"</script>'),
  ]);
  const { blocked, told } = await open("a.html", every);
  if (told.length === 0) expect(blocked).toEqual([]);
});
