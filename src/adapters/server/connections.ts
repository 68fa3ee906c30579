import type { Server as HttpServer, IncomingMessage, ServerResponse } from "node:http";
import type { Http2SecureServer, ServerHttp2Session } from "node:http2";
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
  const silent = followSilent(server, false);
  server.on("request", ({ socket }) => silent.asks(socket));
  return {
    drain(done) {
      const endIdle = (): void => {
        if (!silent.isAny()) server.closeIdleConnections();
      };
      // A connection is idle once its response is done; it would be kept for the next one otherwise.
      const sweep = setInterval(endIdle, SWEEP_MS);
      Server.prototype.close.call(server, () => {
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

/** HTTP/2 with HTTP/1.1 beside it: the platform leaves it to us. */
export function followSecure(server: Http2SecureServer): Connections {
  const sessions = new Set<ServerHttp2Session>();
  /** Requests in progress on each connection of HTTP/1.1. */
  const sockets = new Map<Socket, number>();
  const silent = followSilent(server, true);
  let isDraining = false;
  server.on("session", (session) => {
    sessions.add(session);
    session.once("close", () => sessions.delete(session));
    if (isDraining) session.close();
  });
  server.on("secureConnection", (socket: Socket & { alpnProtocol?: string | false }) => {
    silent.shakesHands(socket);
    if (socket.alpnProtocol === "h2") return;
    sockets.set(socket, 0);
    socket.once("close", () => sockets.delete(socket));
  });
  server.on("request", (request, response) => {
    if (request.httpVersionMajor !== 1) return;
    const { socket } = request as unknown as IncomingMessage;
    sockets.set(socket, (sockets.get(socket) ?? 0) + 1);
    (response as unknown as ServerResponse).once("close", () => {
      const left = (sockets.get(socket) ?? 1) - 1;
      if (!sockets.has(socket)) return;
      sockets.set(socket, left);
      if (isDraining && left === 0) socket.end();
    });
  });
  return {
    drain(done) {
      server.close(done);
      isDraining = true;
      for (const session of sessions) session.close();
      for (const [socket, underWay] of sockets) if (underWay === 0) socket.end();
      silent.drain();
    },
    cut() {
      for (const session of sessions) session.destroy();
      for (const socket of sockets.keys()) socket.destroy();
      silent.cut();
    },
  };
}

interface Silent {
  isAny(): boolean;
  /** A request came on a connection. */
  asks(socket: Socket): void;
  /** A connection has become one over TLS, which is followed as such. */
  shakesHands(secure: Socket): void;
  drain(): void;
  cut(): void;
}

/** Connections that have not asked for anything yet: browsers open some in advance, and the platform waits for each. */
function followSilent(server: Server, isSecure: boolean): Silent {
  // What comes over TLS is another object than what it comes on; both have the same other end.
  const endOf = ({ remoteAddress, remotePort }: Socket): string => `${remoteAddress} ${remotePort}`;
  const sockets = new Map<string | Socket, Socket>();
  server.on("connection", (socket: Socket) => {
    const key = isSecure && socket.remotePort !== undefined ? endOf(socket) : socket;
    sockets.set(key, socket);
    socket.once("close", () => sockets.delete(key));
  });
  const cut = (): void => {
    for (const socket of sockets.values()) socket.destroy();
  };
  return {
    isAny: () => sockets.size > 0,
    asks: (socket) => void sockets.delete(socket),
    shakesHands: (socket) => void sockets.delete(endOf(socket)),
    drain() {
      const end = setTimeout(cut, SILENT_MS);
      server.once("close", () => clearTimeout(end));
    },
    cut,
  };
}
