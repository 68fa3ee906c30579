import { randomUUID } from "node:crypto";
import { fieldValue, type RequestHeaders } from "../core/request/request.js";
import { compileProxies, type Peer, type Proxies } from "./client.js";

/** What a handler adds to every answer beside the site's own fields. */
export interface AnnotateOptions {
  /**
   * Gives each request an id: in `X-Request-Id` of its answer, and in the record that `onResponse` gets. What a trusted proxy
   * gives is taken over (see `proxies`); of anybody else it is not (default false).
   */
  readonly requestIds?: boolean;
  /**
   * Says in `Server-Timing` (W3C Server Timing) how many milliseconds it took to find the answer: `kept` for one from memory, else
   * `wait` for its turn on the connection and `plan` for the work (default false).
   */
  readonly serverTiming?: boolean;
  readonly proxies?: Proxies;
}

/** What is added to one answer. */
export interface Annotation {
  readonly id: string | undefined;
  /** Begins the work on the answer, after the wait for its turn. */
  begin(): void;
  /** Names and values in turn, as they are now. */
  fields(): readonly string[];
}

/** Begins when a request has come. */
export type Annotator = (headers: RequestHeaders, peer: Peer) => Annotation;

/** Makes what adds fields to answers; undefined when nothing is asked for. */
export function makeAnnotator({
  requestIds,
  serverTiming,
  proxies = 0,
}: AnnotateOptions): Annotator | undefined {
  if (requestIds !== true && serverTiming !== true) return undefined;
  const isTrusted = compileProxies(proxies);
  return (headers, { address, isLocal }) => {
    const arrived = performance.now();
    let begun: number | undefined;
    const given = requestIds === true && isTrusted(address, 0, isLocal) ? readId(headers) : undefined;
    const id = requestIds === true ? (given ?? randomUUID()) : undefined;
    return {
      id,
      begin() {
        begun = performance.now();
      },
      fields() {
        const added = id === undefined ? [] : ["X-Request-Id", id];
        if (serverTiming === true) added.push("Server-Timing", tellTimes(arrived, begun));
        return added;
      },
    };
  };
}

// The id goes into fields and logs: what others write there is short, and of one word.
function readId(headers: RequestHeaders): string | undefined {
  const id = fieldValue(headers, "x-request-id");
  return id !== undefined && /^[\w.~+/=:@-]{1,128}$/.test(id) ? id : undefined;
}

function tellTimes(arrived: number, begun: number | undefined): string {
  const now = performance.now();
  const metric = (name: string, milliseconds: number): string => `${name};dur=${milliseconds.toFixed(3)}`;
  if (begun === undefined) return metric("kept", now - arrived);
  return `${metric("wait", begun - arrived)}, ${metric("plan", now - begun)}`;
}
