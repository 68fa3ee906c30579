import type { Server as HttpServer } from "node:http";
import { Server, type Socket } from "node:net";

/** The connections of a server, for stopping it in order. */
export interface Connections {
  /**
   * Takes no new ones, ends what is idle now, and each other one when its answers are done. Calls back when the last one has
   * ended.
   */
  drain(done: () => void): void;
  /** Ends all. */
  cut(): void;
}

/** How often a stopping server closes connections that became idle, in milliseconds. */
const SWEEP_MS = 50;
/** How long a stopping server waits for the first request of a connection, which may be on its way, in milliseconds. */
const SILENT_MS = 500;

/**
 * HTTP/1.1 in clear: the platform knows which connections are idle. Node 26 counts those among them that have not asked
 * for anything yet, and its HTTP server ends them when it closes: while there are such, nothing is ended, and the server closes as
 * one of plain connections does.
 */
export function followPlain(server: HttpServer): Connections {
  const silent = followSilent(server);
  const sockets = new Set<Socket>();
  server.on("connection", (socket) => {
    sockets.add(socket);
    socket.once("close", () => sockets.delete(socket));
  });
  server.on("request", ({ socket }) => silent.asks(socket));
  return {
    drain(done) {
      const endIdle = (): void => {
        // The platform takes one for idle whose answer still waits to be sent.
        const isSending = [...sockets].some(({ writableLength }) => writableLength > 0);
        if (!silent.isAny() && !isSending) server.closeIdleConnections();
      };
      // A connection is idle once its response is done; it would be kept for the next one otherwise.
      const sweep = setInterval(endIdle, SWEEP_MS);
      // In Bun an HTTP server is no server of plain connections.
      const { close } = server instanceof Server ? Server.prototype : server;
      close.call(server, () => {
        clearInterval(sweep);
        // Its own clock ends too.
        server.close();
        done();
      });
      endIdle();
      silent.drain();
    },
    cut: () => server.closeAllConnections(),
  };
}

export interface Silent {
  isAny(): boolean;
  /** A request came on a connection. */
  asks(socket: Socket): void;
  /** A connection has become one over TLS, which is followed as such. */
  shakesHands(secure: Socket): void;
  drain(): void;
  cut(): void;
}

/** Connections that have not asked for anything yet: browsers open some in advance, and the platform waits for each. */
export function followSilent(server: Server): Silent {
  const sockets = new Set<Socket>();
  server.on("connection", (socket: Socket) => {
    sockets.add(socket);
    socket.once("close", () => sockets.delete(socket));
  });
  const cut = (): void => {
    for (const socket of sockets) socket.destroy();
  };
  return {
    isAny: () => sockets.size > 0,
    asks: (socket) => void sockets.delete(socket),
    shakesHands(secure) {
      const socket = findUnder(secure, sockets);
      if (socket !== undefined) sockets.delete(socket);
    },
    drain() {
      const end = setTimeout(cut, SILENT_MS);
      server.once("close", () => clearTimeout(end));
    },
    cut,
  };
}

// What comes over TLS is another object than what it comes on. The platform notes it; both have the same other end, too.
function findUnder(secure: Socket, sockets: ReadonlySet<Socket>): Socket | undefined {
  const { _parent: parent } = secure as { readonly _parent?: Socket };
  if (parent !== undefined && parent !== null && sockets.has(parent)) return parent;
  const { remoteAddress, remotePort } = secure;
  return [...sockets].find(
    (one) => remotePort !== undefined && one.remotePort === remotePort && one.remoteAddress === remoteAddress,
  );
}
