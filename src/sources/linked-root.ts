import { realpath } from "node:fs/promises";
import type { Diagnosis, FileSource, Found } from "../core/source.js";

/**
 * A folder that is reached through a symbolic link: how releases are exchanged. The link may lead elsewhere at any moment, so
 * each request is answered from the folder that it led to when the request came.
 */
export class LinkedRoot implements FileSource {
  readonly name: string;
  readonly #path: string;
  readonly #make: (real: string) => FileSource;
  #current: { readonly real: string; readonly source: FileSource } | undefined;

  /** `make` makes the source of a real folder; it is called when the link leads elsewhere. */
  constructor(path: string, name: string, make: (real: string) => FileSource) {
    this.name = name;
    this.#path = path;
    this.#make = make;
  }

  async snapshot(): Promise<FileSource> {
    // A link that leads nowhere is found out by opening: what is not there is missing.
    const real = await realpath(this.#path).catch(() => this.#path);
    if (this.#current?.real !== real) this.#current = { real, source: this.#make(real) };
    return this.#current.source;
  }

  async open(path: string): Promise<Found> {
    return (await this.snapshot()).open(path);
  }

  async diagnose(path: string): Promise<Diagnosis | undefined> {
    return (await this.snapshot()).diagnose(path);
  }
}
