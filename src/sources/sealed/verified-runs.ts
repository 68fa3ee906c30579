/**
 * Runs of bytes that were verified, by the SHA-256 in hexadecimal that they have: whole files, or pieces of long ones. What was wanted last
 * stays in memory up to a bound; it never becomes wrong, since its name is its content. Of what many want at a time, one run is read.
 */
export class VerifiedRuns {
  readonly #bound: number;
  /** The one that was wanted last is at the end. */
  readonly #recent = new Map<string, Uint8Array>();
  readonly #loading = new Map<string, Promise<Uint8Array>>();
  #bytes = 0;

  /** `bound` is in bytes. */
  constructor(bound: number) {
    this.#bound = bound;
  }

  /** What is kept, in bytes. */
  get bytes(): number {
    return this.#bytes;
  }

  has(name: string): boolean {
    return this.#recent.has(name);
  }

  /** A run from memory, or from `read`, which gives verified bytes only. Rejects with what `read` rejects with. */
  load(name: string, read: () => Promise<Uint8Array>): Promise<Uint8Array> {
    const recent = this.#recent.get(name);
    if (recent !== undefined) {
      this.#recent.delete(name);
      this.#recent.set(name, recent);
      return Promise.resolve(recent);
    }
    let loading = this.#loading.get(name);
    if (loading === undefined) {
      loading = read()
        .then((bytes) => this.#keep(name, bytes))
        .finally(() => this.#loading.delete(name));
      this.#loading.set(name, loading);
    }
    return loading;
  }

  forget(name: string): void {
    this.#bytes -= this.#recent.get(name)?.length ?? 0;
    this.#recent.delete(name);
  }

  #keep(name: string, bytes: Uint8Array): Uint8Array {
    this.forget(name);
    this.#recent.set(name, bytes);
    this.#bytes += bytes.length;
    for (const oldest of this.#recent.keys()) {
      if (this.#bytes <= this.#bound) break;
      this.forget(oldest);
    }
    return bytes;
  }
}
