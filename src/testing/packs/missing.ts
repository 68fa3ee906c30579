import { findRelativeAddresses } from "../../reading/pages/references.js";
import { mergeFields, NAVIGATION } from "../ask/ask.js";
import type { Case } from "../case.js";
import type { Check, Seen } from "../checks/check.js";
import { pageOf, readMediaType, readText } from "../checks/content.js";
import { checkStatus } from "../checks/expectation.js";
import type { FollowUp } from "../checks/follow-ups.js";
import { followRedirects, readRedirect } from "../checks/redirects.js";
import { kindOf } from "../discover/kind.js";
import { NO_SUCH_NAME, type Sample } from "../discover/sample.js";
import { findLeak } from "./leaks.js";
import { demand, get, makeCase, type Pack, withFollowUps } from "./pack.js";

/** RFC 9110 §15.5.5: what is said where nothing is. */
export const missing: Pack = (sample) => {
  const inner = sample.directories.find((path) => path !== "/" && !isUnderShell(sample, path));
  const places = [...new Set(["/", ...(inner === undefined ? [] : [inner])])];
  return [
    ...places.flatMap((at) => [...lookForPage(sample, at), lookForFile(at)]),
    ...lookClosely(sample),
    lookForApi(sample),
  ];
};

// An application answers every address without a file, and has its own page for what it does not know.
function isUnderShell({ shells }: Sample, path: string): boolean {
  return shells.some(({ under }) => path.startsWith(under));
}

const WHY = "RFC 9110 §15.5.5: search engines keep pages with 200, and programs take the error for an answer";

/** An error of the client's that says it: 404, or 410 for what was there once. */
const saysSo: Check = demand("status", "404, or 410", (seen) => {
  const { status } = seen.reply;
  if (status === 404 || status === 410) return undefined;
  const target = readRedirect(seen);
  // Where it leads is looked at next.
  if (target?.kind === "here" && target.path !== "/") return undefined;
  if (target !== undefined)
    return `${status}, a redirect to ${"location" in target ? target.location : "nowhere"}`;
  return status === 200 ? "200, as if it had been found" : String(status);
});

// A redirect on the way, to a slash for instance, is fine; an error behind it that says 200 is none.
const follow = followRedirects([saysSo]);

/** RFC 9110 §9.3.2: programs that look for broken links ask with HEAD. */
const askWithHead: FollowUp = {
  name: "HEAD",
  plan: ({ question, reply }) => [
    {
      name: "asked with HEAD",
      question: { ...question, method: "HEAD" },
      checks: [checkStatus([reply.status])],
    },
  ],
};

function lookForPage(sample: Sample, at: string): Case[] {
  if (isUnderShell(sample, at)) return [];
  const path = `${at}${NO_SUCH_NAME}-page`;
  return [
    withFollowUps(
      makeCase(`${path}, a page that does not exist`, get(path, { ...NAVIGATION }), [saysSo], WHY),
      [follow, askWithHead],
    ),
  ];
}

function lookForFile(at: string): Case {
  const path = `${at}${NO_SUCH_NAME}.png`;
  const headers = {
    Accept: "image/avif,image/webp,*/*;q=0.8",
    "Sec-Fetch-Dest": "image",
    "Sec-Fetch-Mode": "no-cors",
  };
  return withFollowUps(
    makeCase(`${path}, a picture that does not exist`, get(path, headers), [saysSo], WHY),
    [follow, askWithHead],
  );
}

function lookForApi({ shells }: Sample): Case {
  const [shell] = shells;
  const path = `${shell?.under ?? "/"}api/${NO_SUCH_NAME}`;
  const headers = { Accept: "application/json", "Sec-Fetch-Dest": "empty", "Sec-Fetch-Mode": "cors" };
  const check = demand("answer", "no page of HTML with 200: a program expects JSON", ({ reply }) =>
    reply.status === 200 && kindOf(reply) === "document" ? "200 with a page of HTML" : undefined,
  );
  return makeCase(
    `${path}, an API address that does not exist`,
    get(path, headers),
    [check],
    'a program that gets the application\'s page says "unexpected token <"',
  );
}

function lookClosely(sample: Sample): Case[] {
  const deep = `/${NO_SUCH_NAME}/deep/${NO_SUCH_NAME}.html`;
  const page = get(deep, { ...NAVIGATION });
  const ask = (name: string, checks: readonly Check[], reason: string): Case =>
    makeCase(`${deep}, ${name}`, page, checks, reason);
  const isError = ({ reply }: Seen): boolean => reply.status >= 400;
  return [
    ask(
      "has a message for people",
      [
        demand("body", "a page or a text", (seen) =>
          isError(seen) && seen.reply.body.length === 0 ? "an empty body" : undefined,
        ),
      ],
      "an empty answer is a blank page",
    ),
    ask(
      "has the type of its page",
      [
        demand("Content-Type", "text/html for a page of HTML", ({ reply }) => {
          const { text = "" } = readText(reply) as { text?: string };
          const type = readMediaType(reply.headers) ?? "nothing";
          const isPage = /^\s*(?:<!doctype html|<html)\b/i.test(text);
          return isPage && !/^(?:text\/html|application\/xhtml\+xml)$/.test(type) ? type : undefined;
        }),
      ],
      "RFC 9110 §8.3: a page sent as text shows its source",
    ),
    ask(
      "has a page that can load its files",
      [
        demand("body", "addresses that begin with a slash, or a base element", (seen) => {
          const { reply } = seen;
          const [first] =
            isError(seen) && kindOf(reply) === "document" ? findRelativeAddresses(pageOf(reply)) : [];
          return first === undefined
            ? undefined
            : `${JSON.stringify(first)}, which is relative to each missing address`;
        }),
      ],
      "the same page answers in every folder",
    ),
    ask(
      "reveals nothing about the machine",
      [
        demand("body", "no path of the machine, and no stack of the program", ({ reply }) =>
          findLeak((readText(reply) as { text?: string }).text ?? ""),
        ),
      ],
      "attackers learn where to try next",
    ),
    lookForMarkup(),
    askWithValidators(sample),
  ];
}

function lookForMarkup(): Case {
  const path = `/${NO_SUCH_NAME}/%3Cepistyle-mark%3E%22`;
  const check = demand("body", "the address escaped, or not shown", ({ reply }) => {
    const { text = "" } = readText(reply) as { text?: string };
    return kindOf(reply) === "document" && text.includes("<epistyle-mark>")
      ? "the address unescaped in the HTML: whoever makes a link can write into the page"
      : undefined;
  });
  return makeCase(
    `${path}, an address with markup`,
    get(path, { ...NAVIGATION }),
    [check],
    "HTML §13.3: a script in a link would run with the rights of your site",
  );
}

// There is nothing of which a copy could be current.
function askWithValidators({ missing: seen, missingPath }: Sample): Case {
  const { etag } = seen.headers;
  // The document of an application is there, and may be current.
  const isDocument = seen.status < 400;
  const headers = { Accept: "*/*", "If-None-Match": etag ?? "*" };
  const check = demand("status", "the error again, and not 304", ({ reply }) =>
    reply.status === 304 && !isDocument
      ? `304${etag === undefined ? "" : ` for the error's own tag ${etag}`}`
      : undefined,
  );
  return makeCase(
    `${missingPath}, asked again with a validator`,
    get(missingPath, mergeFields({}, headers)),
    [check],
    "RFC 9110 §13.1.2, §13.2.1: conditions are for existing files; a cache would keep the error as current",
  );
}
