import { createServer, type Server } from "node:http";
import { sayMetrics } from "./health.js";
import { listenAt, readPlace } from "./place.js";

/** Tells metrics on their own port, so that visitors never come near it. Rejects with a StartError when it cannot listen. */
export async function listenForMetrics(
  { port, host = "127.0.0.1" }: { readonly port: number; readonly host?: string | undefined },
  format: () => Promise<string>,
): Promise<Server> {
  const server = createServer({ headersTimeout: 20_000, requestTimeout: 60_000 }, (request, response) => {
    format().then(
      (text) => sayMetrics(request, response, text),
      () => response.destroy(),
    );
  });
  await listenAt(server, readPlace({ host, port }));
  return server;
}
