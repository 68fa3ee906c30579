import { Client, type Dispatcher } from "undici";
import { SiteError } from "../site/problems.js";
import type { Asker } from "./ask.js";

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
