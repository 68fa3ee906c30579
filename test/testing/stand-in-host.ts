import { createServer, type RequestListener } from "node:http";
import type { AddressInfo } from "node:net";
import type { CaseResult } from "../../src/testing/index.js";

/** Servers of a test file, and how to end them all. */
export function makeHosts(): { host: (handler: RequestListener) => Promise<string>; stop: () => void } {
  const stops: (() => void)[] = [];
  return {
    async host(handler) {
      const server = createServer(handler).listen(0, "127.0.0.1");
      await new Promise((done) => server.once("listening", done));
      stops.push(() => {
        server.close();
        server.closeAllConnections();
      });
      return `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    },
    stop() {
      for (const stop of stops) stop();
    },
  };
}

/** What of a run was not as expected: the case, and what was expected of what. */
export const failures = (results: readonly CaseResult[]): string[] =>
  results
    .filter(({ outcome }) => outcome === "failed" || outcome === "unanswered")
    .map(
      ({ case: one, exchanges }) =>
        `${one.group}: ${one.name}: ${exchanges.flatMap(({ differences, because }) => because ?? differences.map(({ about, got }) => `${about} ${got}`)).join("; ")}`,
    );
