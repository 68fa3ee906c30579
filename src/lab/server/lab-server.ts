import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { fileURLToPath } from "node:url";
import { nodeHandler, StartError } from "../../adapters/node.js";
import { openSite } from "../../site/open.js";
import type { Site } from "../../site/site.js";
import { answerCall } from "./api.js";
import { readGuarded } from "./guard.js";
import { makeToken } from "./token.js";
import type { Watch } from "./watch.js";
import type { Workspace } from "./workspace.js";

export interface RunningLab {
  /** The address to open: the token in it lets in. */
  readonly url: string;
  close(): Promise<void>;
}

export interface LabServerOptions {
  readonly workspace: Workspace;
  readonly watch: Watch;
  /** 0 takes a free one. */
  readonly port: number;
  /** What lets in; a new one when not given. */
  readonly token?: string | undefined;
}

/** Starts the lab on this machine alone, behind a token. Rejects with a StartError when it cannot listen. */
export async function startLab({
  workspace,
  watch,
  port,
  token = makeToken(),
}: LabServerOptions): Promise<RunningLab> {
  const page = nodeHandler(await openPage(token));
  const server = createServer((request, response) => {
    const path = readGuarded(request, token, listening());
    if (path === undefined) return refuse(response);
    const [, call] = /^\/api\/([\w-]+)$/.exec(path) ?? [];
    if (call !== undefined) void answerCall(call, request, response, { workspace, watch });
    else page(request, response);
  });
  const listening = (): number => (server.address() as AddressInfo).port;
  server.requestTimeout = 60_000;
  await new Promise<void>((resolve, reject) => {
    server.once("error", (error: NodeJS.ErrnoException) => {
      const because =
        error.code === "EADDRINUSE"
          ? "is in use; choose another with --lab-port, or 0 for a free one"
          : `cannot be used (${error.code})`;
      reject(new StartError(`The lab's port ${port} ${because}.`));
    });
    server.listen(port, "127.0.0.1", resolve);
  });
  return {
    url: `http://127.0.0.1:${listening()}/${token}/`,
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}

/** The page's own files are in the package. */
async function openPage(token: string): Promise<Site> {
  const folder = fileURLToPath(new URL("./dist/lab/page/", import.meta.resolve("epistyle/package.json")));
  return openSite({
    mounts: [
      {
        at: `/${token}`,
        folder,
        withheld: ["*.d.ts"],
        caching: [{ files: "fingerprinted", policy: "immutable" }],
        // The editor writes its colours into the page.
        protect: {
          allow: {
            "style-src": ["'self'", "'unsafe-inline'"],
            "connect-src": ["'self'"],
            "img-src": ["data:"],
          },
          framing: "none",
          referrer: "no-referrer",
        },
      },
    ],
  });
}

function refuse(response: ServerResponse<IncomingMessage>): void {
  response.writeHead(404, {
    "Content-Type": "text/plain; charset=utf-8",
    "X-Content-Type-Options": "nosniff",
  });
  response.end("There is nothing here. Open the address that the lab printed: it contains a token.\n");
}
