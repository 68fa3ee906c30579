import type { FieldsToSend } from "./ask.js";

/** A request as it is sent. */
export interface Request {
  readonly method: string;
  readonly target: string;
  readonly headers: FieldsToSend;
  readonly body: string | undefined;
  readonly signal: AbortSignal;
}

/** The host and port behind an address. */
export function placeOf(url: URL): { host: string; port: number } {
  const host = url.hostname.replace(/^\[|\]$/g, "");
  const port = url.port === "" ? (url.protocol === "https:" ? 443 : 80) : Number(url.port);
  return { host, port };
}
