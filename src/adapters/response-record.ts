import type { Answer } from "../core/answer/plan.js";
import type { SiteRequest } from "../core/request/request.js";
import type { Client } from "./client.js";
import type { Delivery } from "./delivery.js";

/** One request and how its answer ended. */
export interface ResponseRecord {
  readonly request: SiteRequest;
  readonly answer: Answer;
  readonly delivery: Delivery;
  /** From the request head to the end of the answer, in milliseconds. */
  readonly milliseconds: number;
  /** Address of the peer as the socket knows it: the last proxy's, where there are some. */
  readonly remoteAddress: string | undefined;
  /** Who asked, behind the proxies that are trusted. */
  readonly client: Client;
  /** The version of HTTP on the connection: "1.0", "1.1", "2.0". */
  readonly httpVersion: string;
  /** The request's id, where requests have one (`requestIds`). */
  readonly id?: string | undefined;
  /** Why the answer is what it is, in words for the developer. */
  readonly why: string;
}
