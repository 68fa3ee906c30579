import { readFile } from "node:fs/promises";
import * as z from "zod";
import { shorten } from "../../config/config-file.js";
import { checkDepth } from "../../config/depth.js";
import { formatProblem, validate } from "../../config/problems.js";
import { SiteError } from "../../config/site-error.js";
import { AddressNames } from "../../reading/builds/by-address.js";
import { decideKind, extensionOf } from "../../reading/contents/kinds.js";
import type { Reply } from "../ask/ask.js";
import { joinFields } from "../ask/in-process.js";
import type { FollowUpWritten } from "../format/follow-up-written.js";
import { groupOfKind, isNeverMeant, nameKind } from "./names.js";
import type { Observed } from "./observed.js";

const pair = z.object({ name: z.string(), value: z.string() });
const entry = z.object({
  request: z.object({ method: z.string(), url: z.string(), headers: z.array(pair) }),
  response: z.object({
    status: z.number(),
    headers: z.array(pair),
    content: z
      .object({
        mimeType: z.string().optional(),
        text: z.string().optional(),
        encoding: z.string().optional(),
      })
      .optional(),
  }),
});
// Browsers add fields of their own, which are left alone.
const recording = z.object({ log: z.object({ entries: z.array(entry) }) });

/** How many examples of one kind a draft has; of documents, more: somebody went there. */
const EXAMPLES = { document: 12, other: 1 };

/** What a HAR recording tells of one site. */
export interface Recorded {
  /** The site's base address, without a slash at its end: that of the first document. */
  readonly address: string;
  readonly observed: readonly Observed[];
}

/** Reads a HAR 1.2 recording, as browsers write it. Rejects with a SiteError for any other file. */
export async function observeRecording(path: string): Promise<Recorded> {
  const file = shorten(path);
  const entries = await readEntries(path, file);
  const usable = entries.filter(
    ({ request, response }) =>
      URL.canParse(request.url) && /^https?:/.test(request.url) && response.status > 0,
  );
  const first = usable.find(({ response }) => decideKind(mediaTypeOf(response)) === "document") ?? usable[0];
  if (first === undefined)
    throw new SiteError([
      `${file}: found no request with an answer; record a visit to the site, and save it with its content.`,
    ]);
  const address = new URL(first.request.url).origin;
  const names = new AddressNames(usable.map(({ request }) => new URL(request.url).pathname));
  const counts = new Map<string, number>();
  const observed = usable.flatMap((one): Observed[] => {
    const url = new URL(one.request.url);
    if (url.origin !== address || !/^(?:GET|HEAD)$/.test(one.request.method)) return [];
    const path = url.pathname + url.search;
    if (isNeverMeant(url.pathname) && one.response.status < 400) return [];
    const kind = decideKind(mediaTypeOf(one.response));
    const isDocument = kind === "document";
    const each = names.patternOf(url.pathname);
    const fingerprinted = each !== undefined;
    const key = isDocument
      ? `document ${one.response.status} ${path}`
      : `${extensionOf(path)} ${kind} ${one.response.status} ${fingerprinted}`;
    const group = isDocument ? "document" : key;
    const limit = isDocument ? EXAMPLES.document : EXAMPLES.other;
    if (counts.has(key) && isDocument) return [];
    counts.set(key, 1);
    const before = counts.get(`#${group}`) ?? 0;
    if (before >= limit) return [];
    counts.set(`#${group}`, before + 1);
    return [toObserved(one, { address, path, kind, each })];
  });
  return { address, observed };
}

type Entry = z.output<typeof entry>;

async function readEntries(path: string, file: string): Promise<Entry[]> {
  let text: string;
  try {
    text = await readFile(path, "utf8");
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    throw new SiteError([
      code === "ENOENT"
        ? `${file}: there is no such recording; check the path.`
        : `${file}: the recording cannot be read (${code}); name a .har file.`,
    ]);
  }
  let value: unknown;
  try {
    // Some tools write a byte order mark before it.
    value = JSON.parse(text.replace(/^\ufeff/, ""));
  } catch (error) {
    throw new SiteError([
      `${file}: this is not a HAR recording, which is JSON (${(error as Error).message}); save one from a browser's network panel.`,
    ]);
  }
  checkDepth(value, file);
  const result = validate(recording, value);
  if (!result.ok)
    throw new SiteError(
      result.problems
        .slice(0, 3)
        .map((problem) => `${file}: this is not a HAR recording: ${formatProblem(problem)}`),
    );
  return result.value.log.entries;
}

function mediaTypeOf({ headers, content }: Entry["response"]): string | undefined {
  const field = headers.find(({ name }) => name.toLowerCase() === "content-type")?.value ?? content?.mimeType;
  return field?.replace(/;.*/s, "").trim().toLowerCase();
}

interface Resource {
  readonly address: string;
  readonly path: string;
  readonly kind: ReturnType<typeof decideKind>;
  /** A pattern for it in this build and the next, where its name is fingerprinted. */
  readonly each: string | undefined;
}

function toObserved({ request, response }: Entry, { address, path, kind, each }: Resource): Observed {
  const sent = joinFields(request.headers.map(({ name, value }) => [name, value]));
  const headers = joinFields(
    response.headers
      // HTTP/2 and 3 write the status as a field with a colon.
      .filter(({ name }) => !name.startsWith(":"))
      .map(({ name, value }) => [name, value]),
  );
  // The browser held a copy: without one, the same address answers whole.
  const status = response.status === 304 || response.status === 206 ? 200 : response.status;
  const shown: FollowUpWritten[] =
    response.status === 304 ? ["revisit"] : response.status === 206 ? ["range"] : [];
  if (status === 200 && headers["content-type"] === undefined && response.content?.mimeType !== undefined)
    headers["content-type"] = response.content.mimeType;
  const coded = headers["content-encoding"];
  // The recording has the content with its coding undone.
  delete headers["content-encoding"];
  const body = Buffer.from(
    response.content?.text ?? "",
    response.content?.encoding === "base64" ? "base64" : "utf8",
  );
  const reply: Reply = { status, headers, body: new Uint8Array(body), inside: undefined };
  const accept = sent.accept;
  const question = {
    method: request.method,
    path,
    headers: {
      // Of all that a browser says, this tells who needs a page from who wants data.
      ...(accept?.startsWith("text/html") && { Accept: "text/html" }),
      ...(coded !== undefined &&
        sent["accept-encoding"] !== undefined && { "Accept-Encoding": sent["accept-encoding"] }),
    },
  };
  const group = status >= 400 ? "missing files" : status >= 300 ? "redirects" : groupOfKind(kind);
  const name =
    status >= 300
      ? `${request.method} ${path}`
      : kind === "document"
        ? path === "/"
          ? "the front page"
          : `the page ${path}`
        : nameKind(kind, extensionOf(path), each !== undefined);
  return {
    group,
    name,
    question,
    reply,
    address,
    coding: coded?.toLowerCase(),
    live: false,
    shown,
    ...(each !== undefined && { each }),
  };
}
