import { describeOutcome } from "../../adapters/log/outcome.js";
import type { ResponseRecord } from "../../adapters/node.js";
import type { SiteMount } from "../../site/site.js";
import type { Watched } from "../shapes.js";

/** So many requests are kept for whoever opens the page later. */
const KEPT = 200;
/** So many pages look on at a time. */
const LISTENERS_AT_MOST = 16;
/** What says who somebody is stays with the site. */
const SECRET = /^(?:authorization|proxy-authorization|cookie)$/;

/** The requests that a site answers, as they come. */
export class Watch {
  readonly #kept: Watched[] = [];
  readonly #listeners = new Set<(watched: Watched | "changed") => void>();
  #count = 0;

  /** Takes note of an answer. */
  note(record: ResponseRecord, mounts: readonly SiteMount[]): void {
    const { request, delivery, milliseconds } = record;
    const headers = Object.entries(request.headers).map(([name, value]) => [
      name,
      SECRET.test(name) ? "(left out)" : String(value),
    ]);
    const watched: Watched = {
      id: ++this.#count,
      method: request.method,
      target: request.target,
      headers: Object.fromEntries(headers),
      status: String(delivery.status),
      outcome: describeOutcome(record, mounts),
      milliseconds: Math.round(milliseconds * 10) / 10,
      at: Date.now(),
    };
    this.#kept.push(watched);
    if (this.#kept.length > KEPT) this.#kept.shift();
    for (const tell of this.#listeners) tell(watched);
  }

  /** Says that the configuration is another one. */
  changed(): void {
    for (const tell of this.#listeners) tell("changed");
  }

  /** Tells what was kept, and then each request as it comes. Gives what ends it; undefined where too many look on already. */
  follow(tell: (watched: Watched | "changed") => void): (() => void) | undefined {
    if (this.#listeners.size >= LISTENERS_AT_MOST) return undefined;
    for (const watched of this.#kept) tell(watched);
    this.#listeners.add(tell);
    return () => void this.#listeners.delete(tell);
  }
}
