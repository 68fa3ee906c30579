import { Client, type Dispatcher } from "undici";
import { readPlan } from "../adapters/in-process.js";
import { describeReason } from "../core/reason.js";
import type { Site } from "../site/open.js";
import { SiteError } from "../site/problems.js";

/** A request of a case. Header names as written. */
export interface Question {
  readonly method: string;
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
}

/** What came back, as plain data. Header names in lower case; several lines of one field are joined. */
export interface Reply {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: Uint8Array;
  /** Why, in words; known in process only. */
  readonly why: string | undefined;
}

/** Puts questions to a site, in process or over the network. `ask` rejects when there is no answer. */
export interface Asker {
  /** What is asked, for reports. */
  readonly about: string;
  ask(question: Question): Promise<Reply>;
  close(): Promise<void>;
}

/** Asks a site in this process: no port, the same code up to the last header. */
export function askSite(site: Site, about: string): Asker {
  return {
    about,
    async ask({ method, path, headers }) {
      const answer = await site.respond({ method, target: path, headers });
      if (answer.kind === "pass")
        return { status: 404, headers: {}, body: new Uint8Array(0), why: "passed on" };
      const fields = new Map<string, string>();
      for (let i = 0; i < answer.fields.length; i += 2) {
        const name = answer.fields[i]!.toLowerCase();
        const before = fields.get(name);
        fields.set(
          name,
          before === undefined ? answer.fields[i + 1]! : `${before}, ${answer.fields[i + 1]!}`,
        );
      }
      const body = await readPlan(answer);
      const why = `${answer.file ?? "no file"} (${describeReason(answer.reason)})`;
      return { status: answer.status, headers: Object.fromEntries(fields), body, why };
    },
    async close() {},
  };
}

const TIMEOUT_MS = 10_000;

/** Asks a server over HTTP. The path is sent as it is written; no redirect is followed, nothing is decoded. */
export function askServer(address: string): Asker {
  const url = parseAddress(address);
  const prefix = url.pathname.replace(/\/$/, "");
  const client = new Client(url.origin, {
    headersTimeout: TIMEOUT_MS,
    bodyTimeout: TIMEOUT_MS,
    connectTimeout: TIMEOUT_MS,
  });
  return {
    about: address,
    async ask({ method, path, headers }) {
      const target = path === "*" ? path : prefix + path;
      const response = await client
        .request({ method: method as Dispatcher.HttpMethod, path: target, headers })
        .catch((error: unknown) => {
          throw new Error(explain(error as NodeJS.ErrnoException, url));
        });
      const body = new Uint8Array(await response.body.arrayBuffer());
      const fields = Object.entries(response.headers).map(([name, value]) => [
        name,
        [value].flat().join(", "),
      ]);
      return { status: response.statusCode, headers: Object.fromEntries(fields), body, why: undefined };
    },
    close: () => client.destroy(),
  };
}

function parseAddress(address: string): URL {
  const url = URL.canParse(address) ? new URL(address) : undefined;
  if (url === undefined || !/^https?:$/.test(url.protocol) || url.search !== "" || url.hash !== "") {
    throw new SiteError([
      `--against: found ${JSON.stringify(address)}; write the address of the site, such as http://127.0.0.1:8080/.`,
    ]);
  }
  return url;
}

function explain(error: NodeJS.ErrnoException, url: URL): string {
  if (error.code === "ECONNREFUSED") return `nothing listens at ${url.origin}`;
  if (error.code === "ENOTFOUND") return `the host name ${url.hostname} is not known`;
  if (error.code?.startsWith("UND_ERR") && error.code.endsWith("TIMEOUT")) {
    return `no answer within ${TIMEOUT_MS / 1000} seconds`;
  }
  return error.message;
}
