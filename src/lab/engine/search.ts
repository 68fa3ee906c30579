import { unescapeText } from "../../core/text/unescape.js";
import type { Found } from "../shapes.js";
import type { Subject } from "./subject.js";

/** The most names kept for searching, and the most results told. */
const NAMES_AT_MOST = 250_000;
const TOLD_AT_MOST = 200;

/** The addresses of a site, read once and searched as often as somebody types. */
export class AddressBook {
  readonly #addresses: string[] = [];
  readonly #folded: string[] = [];
  #isWhole = false;
  #isStopped = false;

  constructor({ site }: Subject) {
    void this.#read(site);
  }

  async #read(site: Subject["site"]): Promise<void> {
    try {
      for await (const { path } of site.files()) {
        if (this.#isStopped || this.#addresses.length >= NAMES_AT_MOST) break;
        this.#addresses.push(path);
        this.#folded.push(unescapeText(path).toLowerCase());
      }
    } catch {
      // What was read until then can be found.
    }
    this.#isWhole = true;
  }

  /** Addresses that have all words of a text in them. */
  find(text: string): Found {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    const addresses: string[] = [];
    let total = 0;
    for (const [index, address] of this.#addresses.entries()) {
      const folded = this.#folded[index]!;
      if (!words.every((word) => folded.includes(word))) continue;
      if (++total <= TOLD_AT_MOST) addresses.push(address);
    }
    return { addresses, total, isPartial: !this.#isWhole };
  }

  stop(): void {
    this.#isStopped = true;
  }
}
