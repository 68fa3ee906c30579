// What the tests use of the router: it has no types of its own.
declare module "polka" {
  import type { IncomingMessage, Server, ServerResponse } from "node:http";

  type Handler = (
    request: IncomingMessage,
    response: ServerResponse,
    next: (error?: unknown) => void,
  ) => void;
  export interface Router {
    readonly server: Server;
    get(pattern: string, handler: Handler): Router;
    use(...handlers: (string | Handler)[]): Router;
    listen(port: number, host: string, done: () => void): Router;
  }
  export default function polka(options?: {
    onNoMatch?: (request: IncomingMessage, response: ServerResponse) => void;
  }): Router;
}
