import { lstat, unlink } from "node:fs/promises";
import type { Server } from "node:net";
import { connect } from "node:net";
import { shortenStack } from "../../config/short-stack.js";

/** The server could not start. The message says what was found and what to do. */
export class StartError extends Error {
  override readonly name = "StartError";

  constructor(message: string) {
    super(message);
    shortenStack(this);
  }
}

/** Where a server listens. */
export type Endpoint =
  | { readonly kind: "port"; readonly host: string; readonly port: number }
  /** A UNIX domain socket, by its path. */
  | { readonly kind: "socket"; readonly path: string }
  /** A descriptor that listens already: handed over by whoever started the process. */
  | { readonly kind: "descriptor"; readonly descriptor: number };

export interface PlaceOptions {
  /** Address to listen on; this machine alone when not given (127.0.0.1). */
  readonly host?: string | undefined;
  /** Port from 0 to 65535; 0 picks a free one (default 8080). */
  readonly port?: number | undefined;
  /** Path of a UNIX domain socket to listen on, instead of a port. One that nobody listens on any more is replaced. */
  readonly socket?: string | undefined;
  /** Number of a descriptor that listens already, such as 3 from a service manager. */
  readonly descriptor?: number | undefined;
}

/** Reads where to listen. Throws a StartError for what cannot be. */
export function readPlace({ host = "127.0.0.1", port = 8080, socket, descriptor }: PlaceOptions): Endpoint {
  if (descriptor !== undefined) {
    if (Number.isInteger(descriptor) && descriptor >= 3) return { kind: "descriptor", descriptor };
    throw new StartError(
      `descriptor: found ${JSON.stringify(descriptor)}; a descriptor that was passed in is a whole number from 3 up.`,
    );
  }
  if (socket !== undefined) {
    if (typeof socket === "string" && socket !== "") return { kind: "socket", path: socket };
    throw new StartError(`socket: found ${JSON.stringify(socket)}; write a path, such as "/run/site.sock".`);
  }
  if (Number.isInteger(port) && port >= 0 && port <= 65535) return { kind: "port", host, port };
  if (typeof port === "string" && /^\d+$/.test(port))
    throw new StartError(`port: found ${JSON.stringify(port)}, a text; write the number ${Number(port)}.`);
  throw new StartError(
    `port: found ${typeof port === "number" ? port : JSON.stringify(port)}; a port is a whole number from 0 to 65535; 0 picks a free one.`,
  );
}

/** Makes a server listen. Rejects with a StartError when it cannot. */
export async function listenAt(server: Server, place: Endpoint): Promise<void> {
  // Workers listen on one socket: who starts them clears its place.
  if (place.kind === "socket" && !(await import("node:cluster")).default.isWorker)
    await clearSocket(place.path);
  const where =
    place.kind === "port"
      ? { host: place.host, port: place.port }
      : place.kind === "socket"
        ? { path: place.path }
        : { fd: place.descriptor };
  await new Promise<void>((resolve, reject) => {
    server.once("error", (error: NodeJS.ErrnoException) => reject(new StartError(explain(error, place))));
    server.listen(where, resolve);
  });
}

/**
 * Removes a socket that a process left behind when it was killed. Rejects with a StartError for one that somebody listens on, and for
 * what is no socket.
 */
export async function clearSocket(path: string): Promise<void> {
  const stats = await lstat(path).catch(() => undefined);
  if (stats === undefined) return;
  if (!stats.isSocket())
    throw new StartError(
      `socket: found ${JSON.stringify(path)}, which is not a socket; write a path that does not exist yet.`,
    );
  const isTaken = await new Promise<boolean>((resolve) => {
    const probe = connect(path);
    probe.once("connect", () => resolve(true)).once("error", () => resolve(false));
    probe.unref();
  });
  if (isTaken)
    throw new StartError(
      `The socket ${path} is in use by another program; stop that one, or write another path.`,
    );
  await unlink(path).catch(() => undefined);
}

function explain(error: NodeJS.ErrnoException, place: Endpoint): string {
  if (error.code === "EMFILE")
    return "This process may open too few files to start; raise the limit, for example with: ulimit -n 1024";
  if (place.kind === "socket") {
    // The platform says the same of both.
    const isPlace = error.code === "EACCES" || error.code === "ENOENT";
    const why = isPlace
      ? "the folder does not exist, or this process may not write to it"
      : (error.code ?? error.message);
    return `The socket ${place.path} cannot be created (${why}); write a path in a folder that this process may write to.`;
  }
  if (place.kind === "descriptor")
    return `The descriptor ${place.descriptor} does not listen (${error.code ?? error.message}); pass a listening socket, or leave descriptor out.`;
  const { host, port } = place;
  switch (error.code) {
    case "EADDRINUSE":
      return `Port ${port} on ${host} is in use by another program; stop that one, or choose another port (0 picks a free one).`;
    case "EACCES":
      return `Port ${port} needs rights that this process does not have; choose a port from 1024 up, such as 8080.`;
    case "EADDRNOTAVAIL":
      return `${host} is not an address of this machine; write 127.0.0.1 for this machine only, or 0.0.0.0 for all its addresses.`;
    case "ENOTFOUND":
    case "EAI_AGAIN":
      return `The host name ${JSON.stringify(host)} is unknown; write 127.0.0.1 for this machine only, or 0.0.0.0 for all its addresses.`;
    default:
      return `The server cannot listen on ${host}, port ${port} (${error.code ?? error.message}).`;
  }
}
