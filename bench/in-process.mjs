// Requests to a handler in this process, without a socket: what one answer costs besides the system's part.
import { IncomingMessage, ServerResponse } from "node:http";
import { Writable } from "node:stream";

// What a socket would take is taken at once.
const socket = new Writable({ write: (_chunk, _coding, done) => done(), writev: (_chunks, done) => done() });
socket.setMaxListeners(0);
Object.assign(socket, { cork() {}, uncork() {}, remoteAddress: "127.0.0.1" });

/** Gives a function that asks a handler once, and resolves when it has answered. */
export function makeAsk(handler, url) {
  const rawHeaders = ["Host", "localhost", "User-Agent", "bench", "Accept", "*/*"];
  return () => {
    const request = new IncomingMessage(socket);
    Object.assign(request, { method: "GET", url, httpVersionMajor: 1, httpVersionMinor: 1, rawHeaders });
    const response = new ServerResponse(request);
    response.assignSocket(socket);
    return new Promise((done) => {
      response.on("finish", () => {
        response.detachSocket(socket);
        response.emit("close");
        done();
      });
      handler(request, response);
    });
  };
}
