import { extensionOf } from "../../reading/contents/kinds.js";
import { findRelativeAddresses } from "../../reading/pages/references.js";
import { mergeFields, NAVIGATION } from "../ask/ask.js";
import { checkCaching } from "../checks/caching.js";
import type { Seen } from "../checks/check.js";
import { pageOf, readMediaType } from "../checks/content.js";
import { checkStatus } from "../checks/expectation.js";
import { compareValue } from "../checks/field.js";
import type { NextQuestion } from "../checks/follow-ups.js";
import { kindOf } from "../discover/kind.js";
import { NO_SUCH_NAME, type Sample, type Shell } from "../discover/sample.js";
import { demand, get, makeCase, type Pack, skipCase, withFollowUps } from "./pack.js";

/** What a page asks for besides itself, and how a browser asks. */
const SUBRESOURCES: readonly (readonly [name: string, what: string, headers: Record<string, string>])[] = [
  ["script.js", "script", { Accept: "*/*", "Sec-Fetch-Dest": "script", "Sec-Fetch-Mode": "cors" }],
  [
    "style.css",
    "style sheet",
    { Accept: "text/css,*/*;q=0.1", "Sec-Fetch-Dest": "style", "Sec-Fetch-Mode": "no-cors" },
  ],
  [
    "picture.png",
    "picture",
    { Accept: "image/avif,image/webp,*/*;q=0.8", "Sec-Fetch-Dest": "image", "Sec-Fetch-Mode": "no-cors" },
  ],
  ["font.woff2", "font", { Accept: "*/*", "Sec-Fetch-Dest": "font", "Sec-Fetch-Mode": "cors" }],
  ["script.js.map", "source map", { Accept: "*/*", "Sec-Fetch-Dest": "empty", "Sec-Fetch-Mode": "no-cors" }],
  [
    "data.json",
    "JSON file",
    { Accept: "application/json", "Sec-Fetch-Dest": "empty", "Sec-Fetch-Mode": "cors" },
  ],
];

const noDocument = demand("answer", "an error, and not a page of HTML with 200", ({ reply }) => {
  const isDocument = kindOf(reply) === "document";
  const type = readMediaType(reply.headers) ?? "HTML that names no type";
  return reply.status === 200 && isDocument ? `200 with ${type}` : undefined;
});

/** A deep link gets the application; a missing script, style sheet or picture does not. */
export const appShell: Pack = (sample, named) => {
  // A path with an extension was named for another pack.
  const paths = named.filter((path) => /^(?:|\.html?)$/.test(extensionOf(path)));
  const told: Shell[] =
    paths.length === 0 ? [] : [{ under: findPrefix(sample, paths[0]!), links: paths, declared: true }];
  const found = sample.shells.filter(({ under }) => !told.some((one) => one.under === under));
  const shells = [...found, ...told];
  return [
    ...(shells.length === 0
      ? [
          skipCase(
            "deep links",
            "no address without a file is answered with a document, so there seems to be no single-page application; name a deep link with --path",
          ),
        ]
      : shells.flatMap(lookAtShell)),
    ...["/", ...shells.map(({ under }) => under)]
      .filter((under, index, all) => all.indexOf(under) === index)
      .flatMap(lookForScripts),
  ];
};

// The innermost directory that has a document: where the application's own front page is.
function findPrefix({ directories }: Sample, path: string): string {
  const above = directories.filter((directory) => path.startsWith(directory));
  return above.sort((a, b) => b.length - a.length)[0] ?? "/";
}

function lookAtShell({ links }: Shell): ReturnType<Pack> {
  return links.flatMap((link) => {
    const question = get(link, NAVIGATION);
    return [
      makeCase(
        `${link} is answered with the app shell`,
        question,
        [
          checkStatus([200]),
          compareValue("media type", "text/html", ({ reply }) => readMediaType(reply.headers)),
        ],
        "a deep link that is opened or reloaded has no file",
      ),
      makeCase(
        `${link} can load the application's files`,
        question,
        [
          demand("body", "addresses that begin with a slash, or a base element", ({ reply }) => {
            const [first, ...others] =
              kindOf(reply) === "document" ? findRelativeAddresses(pageOf(reply)) : [];
            if (first === undefined) return undefined;
            return `${JSON.stringify(first)}${others.length === 0 ? "" : ` and ${others.length} more`}, relative to each deep link`;
          }),
        ],
        'a page at /shop/tool/5 looks for "./assets/app.js" in /shop/tool: <base href="/shop/">, or the build\'s base, says where it is',
      ),
      makeCase(
        `${link} has no long lifetime`,
        question,
        [checkStatus([200]), ...checkCaching(["fresh for at most 1 hour"])],
        "the app shell names the scripts of one build",
      ),
      withFollowUps(
        makeCase(
          `${link} names in Vary what its answer depends on`,
          question,
          [checkStatus([200])],
          "RFC 9110 §12.5.5: otherwise a shared cache sends the page to a script, and the script's error to visitors",
        ),
        [{ name: "program", plan: (first) => [askAsProgram(first)] }],
      ),
      makeCase(`${link} with HEAD`, { ...question, method: "HEAD" }, [checkStatus([200])], "RFC 9110 §9.3.2"),
    ];
  });
}

// A server that gives everybody the page has nothing to say; one that chooses says so on both answers.
function askAsProgram({ question, reply }: Seen): NextQuestion {
  const headers = mergeFields(question.headers, {
    Accept: "*/*",
    "Sec-Fetch-Mode": "cors",
    "Sec-Fetch-Dest": "empty",
  });
  const check = demand("Vary", "Accept or Sec-Fetch-Mode, on both answers", (seen) => {
    if (seen.reply.status === reply.status && kindOf(seen.reply) === kindOf(reply)) return undefined;
    const silent = [
      { whose: "the page", vary: reply.headers.vary },
      { whose: "the other answer", vary: seen.reply.headers.vary },
    ].find(({ vary = "" }) => !/(?:^|,)\s*(?:\*|accept|sec-fetch-(?:mode|dest))\s*(?:,|$)/i.test(vary));
    return silent && `${silent.vary ?? "nothing"}, on ${silent.whose}`;
  });
  return { name: "asked by a program", question: { ...question, headers }, checks: [check] };
}

function lookForScripts(under: string): ReturnType<Pack> {
  return SUBRESOURCES.map(([name, what, headers]) =>
    makeCase(
      `${under} has no page for a missing ${what}`,
      get(`${under}${NO_SUCH_NAME}-${name}`, mergeFields({}, headers)),
      [noDocument],
      `a browser that asks for a ${what} and gets HTML reports "unexpected token", or shows nothing`,
    ),
  );
}
