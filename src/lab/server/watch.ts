import { describeOutcome } from "../../adapters/log/outcome.js";
import type { ResponseRecord } from "../../adapters/node.js";
import type { SiteMount } from "../../site/site.js";
import type { Watched } from "../shapes.js";

/** How many requests are kept for whoever opens the page later. */
const KEPT = 200;
/** The most that is kept of them, in characters. */
const KEPT_LENGTH = 256 * 1024;
/** How many pages look on at a time. */
const LISTENERS_AT_MOST = 16;
/** The most fields kept of a request, and the most characters of each and of its target: strangers may send long ones. */
const FIELDS_AT_MOST = 40;
const LENGTH_AT_MOST = 400;
const cut = (text: string): string =>
  text.length > LENGTH_AT_MOST ? `${text.slice(0, LENGTH_AT_MOST - 1)}…` : text;
/** What says who somebody is stays with the site. */
const SECRET = /^(?:authorization|proxy-authorization|cookie)$/;

/** The requests that a site answers, as they come. */
export class Watch {
  readonly #kept: (readonly [watched: Watched, length: number])[] = [];
  #length = 0;
  readonly #listeners = new Set<(watched: Watched | "changed") => void>();
  #count = 0;

  /** Takes note of an answer. */
  note(record: ResponseRecord, mounts: readonly SiteMount[]): void {
    const { request, delivery, milliseconds } = record;
    const headers = Object.entries(request.headers)
      .slice(0, FIELDS_AT_MOST)
      .map(([name, value]) => [name, SECRET.test(name) ? "(left out)" : cut(String(value))]);
    const watched: Watched = {
      id: ++this.#count,
      method: request.method,
      target: cut(request.target),
      headers: Object.fromEntries(headers),
      status: String(delivery.status),
      outcome: describeOutcome(record, mounts),
      milliseconds: Math.round(milliseconds * 10) / 10,
      at: Date.now(),
    };
    this.#keep(watched);
    for (const tell of this.#listeners) tell(watched);
  }

  #keep(watched: Watched): void {
    const length = JSON.stringify(watched).length;
    this.#kept.push([watched, length]);
    this.#length += length;
    while (this.#kept.length > KEPT || this.#length > KEPT_LENGTH) this.#length -= this.#kept.shift()![1];
  }

  /** Says that the configuration is another one. */
  changed(): void {
    for (const tell of this.#listeners) tell("changed");
  }

  /** Tells what was kept, and then each request as it comes. Gives what ends it; undefined where too many look on already. */
  follow(tell: (watched: Watched | "changed") => void): (() => void) | undefined {
    if (this.#listeners.size >= LISTENERS_AT_MOST) return undefined;
    for (const [watched] of this.#kept) tell(watched);
    this.#listeners.add(tell);
    return () => void this.#listeners.delete(tell);
  }
}
