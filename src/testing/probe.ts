import type { MountConfig, SiteConfig } from "../config/config-types.js";
import { defineSite } from "../config/define.js";
import { formatFound } from "../config/found.js";
import { describeReason } from "../core/explain/reason.js";
import type { Trace } from "../core/explain/trace.js";
import { type Block, toShortBlocks } from "../inspection/explain/blocks.js";
import { isTextual } from "../reading/contents/kinds.js";
import { checkAwaited } from "../site/arguments.js";
import { openSite } from "../site/open.js";
import type { Explanation, Site } from "../site/site.js";
import {
  type Asker,
  escapePath,
  type FieldsToSend,
  mergeFields,
  NAVIGATION,
  type Question,
  type Reply,
} from "./ask/ask.js";
import { askSite, readReply } from "./ask/in-process.js";
import { askServer, type ServerOptions } from "./ask/server.js";
import type { Seen } from "./checks/check.js";
import { readMediaType, readText } from "./checks/content.js";

/** An answer for tests: plain data, and in process with the steps that led to it. */
export interface Answered extends Reply {
  readonly question: Question;
  /** Where it was asked, without a slash at its end. */
  readonly address: string;
  /** Media type without parameters, in lower case. */
  readonly mediaType: string | undefined;
  /** The content as text, codings undone; undefined for what is no text. */
  readonly text: string | undefined;
  /** The file that answered, as an address not escaped; undefined when none did, or over the network. */
  readonly file: string | undefined;
  /** Why the answer is what it is, in one sentence; in process only. */
  readonly why: string | undefined;
  /** The steps by which the answer was reached; in process only. */
  readonly trace: Trace | undefined;
  /** What to do about an error, the most likely cause first. */
  readonly hints: readonly string[];
}

/** Asks a site, and returns plain data. It never rejects for what the answer says. */
export interface Probe {
  get(path: string, headers?: FieldsToSend): Promise<Answered>;
  head(path: string, headers?: FieldsToSend): Promise<Answered>;
  /** Any method: `ask({ method: "OPTIONS", path: "/" })`. */
  ask(question: { method?: string; path: string; headers?: FieldsToSend }): Promise<Answered>;
  /** Asks the same again with the validators of an answer, as a browser that holds it does: 304 when it is unchanged. */
  revisit(answer: Answered): Promise<Answered>;
  /** A part of a file: `range("/call.wav", "bytes=0-99")`. */
  range(path: string, range: string, headers?: FieldsToSend): Promise<Answered>;
  /** Asks the way a browser does that opens an address or follows a link. */
  navigate(path: string, headers?: FieldsToSend): Promise<Answered>;
  close(): Promise<void>;
}

/**
 * Makes a probe around a site: one that is open, a configuration, or a single mount. In process: no port is opened. Rejects with
 * a SiteError for a configuration that cannot be used.
 */
export async function openProbe(site: Site | SiteConfig | MountAndBase): Promise<Probe> {
  checkAwaited("openProbe", site);
  if (typeof site !== "object" || site === null) {
    const isAddress = typeof site === "string" && /^https?:/.test(site);
    const wanted = isAddress
      ? `probeServer(${JSON.stringify(site)})`
      : 'openProbe({ folder: "/path/of/public" })';
    throw new TypeError(
      `openProbe: found ${formatFound(site)} instead of a site or a configuration; write ${wanted}.`,
    );
  }
  const opened = isSite(site) ? site : await openSite(defineSite(isConfig(site) ? site : toConfig(site)));
  const asker: Asker = askSite(opened);
  return makeProbe(asker, async (question) => {
    const { method, path, headers } = question;
    const explanation = await opened.explain({ method, target: path, headers }, { keepBody: true });
    return answered(await readReply(explanation.answer, method), question, asker.address, explanation);
  });
}

/** Makes a probe around a server at an address: HTTP or HTTPS. Throws a SiteError for an invalid address. */
export function probeServer(address: string, options: ServerOptions = {}): Probe {
  const asker = askServer(address, { where: "The address of a probe", ...options });
  return makeProbe(asker, async (question) =>
    answered(await asker.ask(question), question, asker.address, undefined),
  );
}

/** One mount, with the place where its relative folder starts. */
export type MountAndBase = MountConfig & Pick<SiteConfig, "base">;

function isSite(value: object): value is Site {
  return "respond" in value;
}

function isConfig(value: SiteConfig | MountAndBase): value is SiteConfig {
  return "mounts" in value;
}

function toConfig({ base, ...mount }: MountAndBase): SiteConfig {
  return base === undefined ? { mounts: [mount] } : { base, mounts: [mount] };
}

function makeProbe(asker: Asker, put: (question: Question) => Promise<Answered>): Probe {
  const send = (method: string, path: string, headers: FieldsToSend = {}): Promise<Answered> => {
    if (!path.startsWith("/") && path !== "*")
      throw new RangeError(
        `The path of a request: found ${JSON.stringify(path)}; write it with a slash, such as "/guide/".`,
      );
    return put({ method, path: escapePath(path), headers });
  };
  return {
    get: (path, headers) => send("GET", path, headers),
    head: (path, headers) => send("HEAD", path, headers),
    ask: ({ method = "GET", path, headers }) => send(method, path, headers),
    revisit({ question, headers }) {
      const { etag, "last-modified": lastModified } = headers;
      const validators = {
        ...(etag !== undefined && { "If-None-Match": etag }),
        ...(lastModified !== undefined && { "If-Modified-Since": lastModified }),
      };
      return put({ ...question, headers: mergeFields(question.headers, validators) });
    },
    range: (path, range, headers = {}) => send("GET", path, { ...headers, Range: range }),
    navigate: (path, headers = {}) => send("GET", path, mergeFields(NAVIGATION, headers)),
    close: () => asker.close(),
  };
}

function answered(
  reply: Reply,
  question: Question,
  address: string,
  explanation: Explanation | undefined,
): Answered {
  const mediaType = readMediaType(reply.headers);
  const content = isTextual(mediaType) ? readText(reply) : undefined;
  return {
    ...reply,
    question,
    address,
    mediaType,
    text: content?.ok ? content.text : undefined,
    file: reply.inside?.file,
    why: explanation && describeReason(explanation.answer.reason),
    trace: explanation?.trace,
    hints: explanation?.hints ?? [],
  };
}

/** What a check looks at, of an answer. */
export function toSeen({ question, address, ...reply }: Answered): Seen {
  return { question, address, reply };
}

/** How an answer came about, as far as it concerns some differences; empty over the network. */
export function explainAnswered({ trace, hints, inside, why }: Answered, about: readonly string[]): Block[] {
  if (trace === undefined || inside === undefined || why === undefined) return [];
  const answer = { kind: "pass", reason: inside.reason } as const;
  return toShortBlocks({ answer, trace, why, hints }, about);
}
