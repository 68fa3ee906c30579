import type { Agent, ClientRequest, IncomingMessage } from "node:http";
import { formatDuration } from "../../config/durations.js";
import { SiteError } from "../../config/site-error.js";
import { own } from "../../core/text/own.js";
import {
  type Asker,
  bodyLimit,
  describeTooLong,
  type FieldLine,
  type FieldsToSend,
  mergeFields,
  type Reply,
} from "./ask.js";
import { joinFields } from "./in-process.js";
import { placeOf, type Request } from "./request.js";

/** How a server is asked. */
export interface ServerOptions {
  /** Header fields that every request carries besides its own, such as a sign-in for a site that is not public yet. */
  readonly headers?: Readonly<Record<string, string>> | undefined;
  /** How long to wait for the whole of an answer, in milliseconds; default 10,000. */
  readonly timeoutMs?: number | undefined;
  /** How many requests are in progress at a time; default 4. */
  readonly concurrency?: number | undefined;
  /** Accepts an untrusted certificate: for a server of one's own. */
  readonly insecureTls?: boolean | undefined;
  /** The option or key that the address was given in, for messages. */
  readonly where?: string | undefined;
}

/**
 * Asks a server over HTTP or HTTPS. The path is sent as written; no redirect is followed, nothing is decoded, nothing is
 * asked twice. Throws a SiteError for an invalid address.
 */
export function askServer(address: string, options: ServerOptions = {}): Asker {
  const { headers = {}, timeoutMs = 10_000, concurrency = 4, insecureTls = false } = options;
  const url = parseAddress(address, options.where ?? "--against");
  const prefix = url.pathname.replace(/\/$/, "");
  let client: Promise<Client> | undefined;
  return {
    about: address,
    address: url.origin + prefix,
    concurrency,
    async ask(question, { timeoutMs: own, width = concurrency } = {}) {
      const limit = own ?? timeoutMs;
      const { method, path, body, readAtMost, ownSocket } = question;
      const signal = AbortSignal.timeout(limit);
      const request: Request = {
        method,
        target: path.startsWith("/") ? prefix + path : path,
        headers: mergeFields<string | readonly string[]>(WHO_ASKS, mergeFields(headers, question.headers)),
        body,
        signal,
      };
      try {
        if (ownSocket) {
          const { askOverSocket } = await import("./socket.js");
          return await askOverSocket(url, request, { insecureTls, limit: bodyLimit(width) });
        }
        client ??= openClient(url, { concurrency, insecureTls });
        return await receive((await client)(request), { width, readAtMost });
      } catch (error) {
        throw new Error(explain(signal.aborted ? (signal.reason as Error) : (error as Error), url, limit));
      }
    },
    async close() {
      (await client)?.agent.destroy();
    },
  };
}

/** Sends a request. The platform's own client, because it takes what others refuse, such as a 304 with a length. */
interface Client {
  (request: Request): ClientRequest;
  readonly agent: Agent;
}

// Loaded when the first question is put: most runs are in process.
async function openClient(
  url: URL,
  { concurrency, insecureTls }: { readonly concurrency: number; readonly insecureTls: boolean },
): Promise<Client> {
  const isTls = url.protocol === "https:";
  const { Agent, request } = await (isTls ? import("node:https") : import("node:http"));
  const agent = new Agent({ keepAlive: true, maxSockets: concurrency, rejectUnauthorized: !insecureTls });
  const { host, port } = placeOf(url);
  return Object.assign(
    ({ method, target, headers, body, signal }: Request) =>
      request({
        method,
        path: target,
        headers: copyFields(headers),
        agent,
        host,
        port,
        signal,
      }).end(body),
    { agent },
  );
}

// The platform takes lists that it may change.
function copyFields(headers: FieldsToSend): Record<string, string | string[]> {
  return Object.fromEntries(
    Object.entries(headers).map(([name, value]) => [name, typeof value === "string" ? value : [...value]]),
  );
}

// Some servers turn away who does not say (RFC 9110 §10.1.5).
const WHO_ASKS = { "User-Agent": "epistyle" };

interface ReadLimits {
  readonly width: number;
  readonly readAtMost: number | undefined;
}

function receive(request: ClientRequest, limits: ReadLimits): Promise<Reply> {
  return new Promise((resolve, reject) => {
    let sent = performance.now();
    request.on("finish", () => {
      sent = performance.now();
    });
    request.on("error", reject);
    request.on("response", (response) => {
      const firstByteMilliseconds = performance.now() - sent;
      collect(response, limits).then(
        (reply) => resolve({ ...reply, wire: { httpVersion: response.httpVersion, firstByteMilliseconds } }),
        (error) => {
          request.destroy();
          reject(error);
        },
      );
    });
  });
}

async function collect(response: IncomingMessage, { width, readAtMost }: ReadLimits): Promise<Reply> {
  const chunks: Buffer[] = [];
  let length = 0;
  let isCut = false;
  for await (const chunk of response as AsyncIterable<Buffer>) {
    length += chunk.length;
    chunks.push(chunk);
    if (readAtMost !== undefined && length > readAtMost) {
      isCut = true;
      // Leaving the loop ends the connection: the rest is not wanted.
      break;
    }
    if (length > bodyLimit(width)) throw new Error(describeTooLong(width));
  }
  const { rawHeaders, statusCode } = response;
  const lines = Array.from(
    { length: rawHeaders.length / 2 },
    (_, i): FieldLine => [rawHeaders[2 * i]!, rawHeaders[2 * i + 1]!],
  );
  const bytes = Buffer.concat(chunks, length);
  const body = new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const cut = isCut && { isCut };
  return { status: statusCode!, headers: joinFields(lines), body, lines, inside: undefined, ...cut };
}

/** Reads a base address: HTTP or HTTPS, with neither query nor fragment. */
export function parseAddress(address: string, where: string): URL {
  const url = URL.canParse(address) ? new URL(address) : undefined;
  if (url === undefined || !/^https?:$/.test(url.protocol) || url.search !== "" || url.hash !== "") {
    throw new SiteError([
      `${where}: found ${JSON.stringify(address)}; write the address of the site, such as http://127.0.0.1:8080/.`,
    ]);
  }
  if (url.username !== "" || url.password !== "") {
    throw new SiteError([
      `${where}: found a name or password in the address; give it with --header 'Authorization: …'.`,
    ]);
  }
  return url;
}

const TLS_CAUSES: Readonly<Record<string, string>> = {
  CERT_HAS_EXPIRED: "its certificate has expired",
  DEPTH_ZERO_SELF_SIGNED_CERT: "its certificate is self-signed",
  SELF_SIGNED_CERT_IN_CHAIN: "its certificate is self-signed",
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: "the certificate of its issuer is missing",
  ERR_TLS_CERT_ALTNAME_INVALID: "its certificate is for another name",
};

function explain(error: NodeJS.ErrnoException, url: URL, timeoutMs: number): string {
  const code = error.code ?? "";
  const tls = own(TLS_CAUSES, code);
  if (tls !== undefined) return `${url.origin} is not trusted: ${tls}; --insecure-tls accepts it anyway`;
  if (code === "ECONNREFUSED") return `no server listens at ${url.origin}`;
  if (code === "ENOTFOUND" || code === "EAI_AGAIN") return `the host name ${url.hostname} is unknown`;
  if (error.name === "TimeoutError") {
    return `no answer within ${formatDuration(timeoutMs / 1000)}`;
  }
  if (code === "ECONNRESET" || error.message === "aborted")
    return "the connection closed before the answer was complete";
  if (/^ERR_(?:INVALID|UNESCAPED|HTTP_INVALID)/.test(code))
    return `the request cannot be sent: ${error.message}`;
  if (/wrong version number|packet length too long/i.test(error.message)) {
    return `${url.origin} does not speak TLS; write http: instead of https:`;
  }
  if (code.startsWith("HPE_")) return `the answer is not HTTP/1.1 (${error.message})`;
  return error.message || code || error.name;
}
