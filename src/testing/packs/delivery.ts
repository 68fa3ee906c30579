import { findReferences } from "../../reading/pages/references.js";
import type { Case } from "../case.js";
import { sameBytes } from "../checks/body.js";
import type { Check, Seen } from "../checks/check.js";
import { pageOf } from "../checks/content.js";
import type { FollowUp } from "../checks/follow-ups.js";
import { toPath } from "../discover/crawl.js";
import type { Sample, Sampled } from "../discover/sample.js";
import { again, asAdvice, demand, makeCase, type Pack, pickByKind, skipCase, withFollowUps } from "./pack.js";

const STRANGER = "https://other-site.invalid";

/** What is sent beside the content: who may read it, what the browser is told to do with it. */
export const delivery: Pack = (sample) => {
  const picked = pickByKind(sample, 9);
  if (picked.length === 0) return [skipCase("delivery", "the site answers no address with a file")];
  const page = sample.resources.filter(({ kind }) => kind === "document").slice(0, 8);
  const looked = [...new Set([...picked, ...page])];
  return [...looked.flatMap(lookAt), ...picked.slice(0, 4).flatMap(askFromElsewhere), ...lookAtFonts(sample)];
};

// Fetch §3.3, CORS protocol.
function askFromElsewhere(one: Sampled): Case[] {
  const ask = (name: string, origin: string, checks: readonly Check[], reason: string): Case =>
    makeCase(
      `${one.path}, ${name}`,
      again(one, { Origin: origin, "Sec-Fetch-Mode": "cors" }),
      checks,
      reason,
    );
  const allowed = "access-control-allow-origin";
  const withCredentials = (seen: Seen): boolean =>
    seen.reply.headers["access-control-allow-credentials"] === "true";
  return [
    ask(
      "asked by a script of another origin",
      STRANGER,
      [
        demand("Access-Control-Allow-Origin", "*, a known origin, or nothing", (seen) => {
          const value = seen.reply.headers[allowed];
          if (value === undefined) return undefined;
          if (/[, ]/.test(value)) return `${value}: several origins, and browsers accept none of them`;
          if (value === STRANGER && withCredentials(seen))
            return `any origin, allowed with credentials: ${value}`;
          return undefined;
        }),
        demand("Access-Control-Allow-Credentials", "no credentials with an origin of *", (seen) =>
          seen.reply.headers[allowed] === "*" && withCredentials(seen)
            ? "true, which browsers refuse with *"
            : undefined,
        ),
        demand("Vary", "a list with Origin, if the answer names the origin", ({ reply: { headers } }) =>
          headers[allowed] === STRANGER && !/(?:^|,)\s*(?:origin|\*)\s*(?:,|$)/i.test(headers.vary ?? "")
            ? (headers.vary ?? "nothing")
            : undefined,
        ),
      ],
      "Fetch §3.3: with credentials, every site can read what this visitor can read; without Vary, caches send one site's answer to another",
    ),
    ask(
      "asked by a page without an origin",
      "null",
      [
        demand("Access-Control-Allow-Origin", "anything but null", ({ reply: { headers } }) =>
          headers[allowed] === "null" ? "null: any page in a sandboxed frame is allowed" : undefined,
        ),
      ],
      "Fetch §3.3.2: null means many pages",
    ),
  ];
}

// CSS Fonts §4.9: fonts are fetched with CORS wherever the page is.
function lookAtFonts({ resources }: Sample): Case[] {
  const isOpen = ({ reply }: Sampled): boolean => reply.headers["access-control-allow-origin"] === "*";
  const others = resources.filter(({ kind }) => kind !== "font" && kind !== "document");
  const fonts = resources.filter(({ kind }) => kind === "font");
  if (others.length < 2 || others.filter(isOpen).length * 2 <= others.length) return [];
  return fonts.map((one) =>
    makeCase(
      `${one.path}, a font, is open to other origins like the other files`,
      one.question,
      [
        demand("Access-Control-Allow-Origin", "*, like the site's other files, for a font", ({ reply }) =>
          reply.headers["access-control-allow-origin"] === undefined ? "nothing" : undefined,
        ),
      ],
      "CSS Fonts §4.9: browsers always use CORS for a font from another origin",
    ),
  );
}

type Row = readonly [
  field: string,
  expected: string,
  look: (value: string, seen: Seen, one: Sampled) => string | undefined,
];

const FIELDS: readonly Row[] = [
  [
    "X-Content-Type-Options",
    "nosniff, the only valid value",
    (value) => (/^\s*nosniff\s*$/i.test(value) ? undefined : value),
  ],
  [
    "Content-Disposition",
    "no download of a page, style sheet or script",
    (value, _, { kind }) =>
      /^\s*attachment\b/i.test(value) && ["document", "style", "script"].includes(kind) ? value : undefined,
  ],
  [
    "X-Frame-Options",
    "DENY or SAMEORIGIN",
    (value) => (/^\s*(?:deny|sameorigin)\s*$/i.test(value) ? undefined : value),
  ],
  ["Clear-Site-Data", "no such field: each visit would clear the browser's data", (value) => value],
  ["Refresh", "no such field: use a redirect or a script", (value) => value],
  [
    "Content-Language",
    "language tags such as en or nb-NO",
    (value) =>
      value.split(",").every((tag) => /^\s*(?:[a-z]{2,3}|[ix]|art)(?:-[a-z0-9]{1,8})*\s*$/i.test(tag))
        ? undefined
        : value,
  ],
  [
    "Strict-Transport-Security",
    "max-age with seconds",
    (value) => (/(?:^|;)\s*max-age\s*=\s*"?\d+"?\s*(?:;|$)/i.test(value) ? undefined : value),
  ],
  ["Content-Security-Policy", "a policy that allows what the page loads", findPolicyFault],
];

function lookAt(one: Sampled): Case[] {
  const checks = FIELDS.map(([field, expected, look]) =>
    demand(field, expected, (seen) => {
      const value = seen.reply.headers[field.toLowerCase()];
      return value === undefined ? undefined : look(value, seen, one);
    }),
  );
  return [
    withFollowUps(
      makeCase(
        `${one.path}, its fields`,
        one.question,
        checks,
        "browsers obey these fields without a message",
      ),
      [contentLocation],
    ),
    asAdvice(
      makeCase(
        `${one.path} does not reveal the server program`,
        one.question,
        [noVersion],
        "attackers look for programs with a known hole",
      ),
      "Leave out the program and its version (Server, X-Powered-By): attackers look for programs with a known hole.",
    ),
    asAdvice(
      makeCase(
        `${one.path} sends Strict-Transport-Security only over HTTPS`,
        one.question,
        [onlySecurely],
        "RFC 6797 §7.2",
      ),
      "Send Strict-Transport-Security only over HTTPS: RFC 6797 §7.2 forbids it elsewhere, and browsers ignore it there.",
    ),
  ];
}

const noVersion = demand("Server", "no version, and no X-Powered-By", ({ reply: { headers } }) => {
  if (headers["x-powered-by"] !== undefined) return `X-Powered-By: ${headers["x-powered-by"]}`;
  return /\d/.test(headers.server ?? "") ? headers.server : undefined;
});

const onlySecurely = demand("Strict-Transport-Security", "nothing over plain HTTP", ({ reply, address }) =>
  address.startsWith("http:") ? reply.headers["strict-transport-security"] : undefined,
);

/** RFC 9110 §8.7: the address of the same content. */
const contentLocation: FollowUp = {
  name: "Content-Location",
  plan({ question, reply, address }) {
    const written = reply.headers["content-location"];
    const base = address + question.path;
    const path =
      written !== undefined && URL.canParse(written, base)
        ? toPath(new URL(written, base).href, address)
        : undefined;
    if (path === undefined || path === question.path || reply.status !== 200) return [];
    const check = demand(
      "Content-Location",
      `an address with the same content as ${question.path}`,
      (seen) =>
        seen.reply.status === 200 && sameBytes(seen.reply.body, reply.body)
          ? undefined
          : `${path}, which answers with ${seen.reply.status === 200 ? "another content" : seen.reply.status}`,
    );
    return [{ name: `its Content-Location ${path}`, question: { ...question, path }, checks: [check] }];
  },
};

// CSP §2.2, §6.7: a name and its sources; without one of its own, scripts and styles go by default-src.
function findPolicyFault(value: string, seen: Seen, { kind }: Sampled): string | undefined {
  const directives = new Map(
    value.split(/[;,]/).flatMap((text) => {
      const [name, ...sources] = text.trim().split(/\s+/);
      return name === undefined || name === "" ? [] : [[name.toLowerCase(), sources] as const];
    }),
  );
  const bad = [...directives.keys()].find((name) => !/^[a-z]+(?:-[a-z]+)*$/.test(name));
  if (bad !== undefined) return `a directive that cannot be read: ${JSON.stringify(bad)}`;
  if (kind !== "document") return undefined;
  const loaded = findReferences(pageOf(seen.reply), seen.address + seen.question.path);
  for (const [element, directive] of [
    ["script", "script-src"],
    ["link", "style-src"],
    ["img", "img-src"],
  ] as const) {
    const sources = directives.get(directive) ?? directives.get("default-src");
    const named = loaded.find(
      (one) => one.element === element && (element !== "link" || /\.css(?:\?|$)/.test(one.url)),
    );
    if (sources?.length === 1 && sources[0] === "'none'" && named !== undefined)
      return `${value}, which blocks ${named.written}`;
  }
  return undefined;
}
