import type { ServerResponse } from "node:http";
import type { Http2SecureServer, ServerHttp2Session } from "node:http2";
import type { TLSSocket } from "node:tls";
import { type Connections, followSilent } from "./connections.js";

/** How often it is looked what moves on the connections, in milliseconds. */
const LOOK_MS = 1000;
/** A session of HTTP/2 on which nothing came for so long is asked whether its client is there, in milliseconds (RFC 9113 §6.7). */
const ASK_AFTER_MS = 5000;
/** A connection over TLS, once hands were shaken. */
interface Secure {
  readonly socket: TLSSocket;
  /** Undefined for HTTP/1.1. */
  session: ServerHttp2Session | undefined;
  /** Requests in progress, of HTTP/1.1. */
  underWay: number;
  /** Bytes that came and went, and when the last ones did. */
  read: number;
  written: number;
  movedMs: number;
  /** When its client was asked whether it is there; undefined when it need not answer. */
  askedMs: number | undefined;
}

/**
 * HTTP/2 with HTTP/1.1 beside it: the platform leaves it to us. A client that resets its connection at once leaves a session behind
 * that the platform never ends, nor its socket: what does not move is asked, and closed by our own clock. How many answers of a session
 * a client may break off, the platform limits itself.
 */
export function followSecure(server: Http2SecureServer, idleMs: number): Connections {
  const all = new Map<TLSSocket, Secure>();
  const silent = followSilent(server);
  let isDraining = false;
  let opened: ServerHttp2Session | undefined;
  // The platform makes the session before it tells us of the connection.
  server.on("session", (session) => {
    opened = session;
    if (isDraining) session.close();
  });
  server.on("secureConnection", (socket: TLSSocket) => {
    silent.shakesHands(socket);
    const session = socket.alpnProtocol === "h2" ? opened : undefined;
    opened = undefined;
    const one: Secure = {
      socket,
      session,
      underWay: 0,
      read: 0,
      written: 0,
      movedMs: Date.now(),
      askedMs: undefined,
    };
    all.set(socket, one);
    socket.once("close", () => all.delete(socket));
    // Nothing else ends the socket of a session whose connection broke while it wrote.
    session?.once("close", () => socket.destroy());
  });
  server.on("request", (request, response) => {
    const one = all.get(request.socket as TLSSocket);
    if (one === undefined || request.httpVersionMajor !== 1) return;
    one.underWay++;
    (response as unknown as ServerResponse).once("close", () => {
      one.underWay--;
      if (isDraining && one.underWay === 0) one.socket.end();
    });
  });
  const looking = setInterval(() => {
    for (const one of all.values()) look(one, idleMs, Date.now());
  }, LOOK_MS);
  looking.unref();
  return {
    drain(done) {
      server.close(() => {
        clearInterval(looking);
        done();
      });
      isDraining = true;
      for (const { socket, session, underWay } of all.values()) {
        if (session !== undefined) session.close();
        else if (underWay === 0) socket.end();
      }
      silent.drain();
    },
    cut() {
      for (const { socket, session } of all.values()) {
        session?.destroy();
        socket.destroy();
      }
      silent.cut();
    },
  };
}

// What the client reads without a word moves too; only what comes shows that it is there.
function look(one: Secure, idleMs: number, nowMs: number): void {
  const { socket, session } = one;
  const { bytesRead, bytesWritten } = socket;
  const came = bytesRead !== one.read;
  if (came && one.askedMs !== undefined) one.askedMs = undefined;
  else if (came || (one.askedMs === undefined && bytesWritten !== one.written)) one.movedMs = nowMs;
  one.read = bytesRead;
  one.written = bytesWritten;
  if (session === undefined || session.destroyed) {
    if (session !== undefined || nowMs - one.movedMs > idleMs) socket.destroy();
    return;
  }
  // As long as a client may accept nothing: one that pauses does not read what it is asked, either.
  const isLost = one.askedMs !== undefined && nowMs - one.askedMs > idleMs / 2;
  if (isLost || nowMs - one.movedMs > idleMs) {
    session.destroy();
    socket.destroy();
  } else if (one.askedMs === undefined && nowMs - one.movedMs > ASK_AFTER_MS && !came) ask(one, nowMs);
}

function ask(one: Secure, nowMs: number): void {
  one.askedMs = nowMs;
  one.session!.ping(() => {});
  // What asking writes is no movement.
  one.written = one.socket.bytesWritten;
}
