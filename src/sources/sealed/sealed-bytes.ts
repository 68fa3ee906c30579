import type { Diagnosis, Found } from "../../core/source.js";
import type { SealedEntry } from "./sealed-entry.js";

/** Where the bytes of sealed files come from. What it gives was compared with the seal: nothing else is ever given. */
export interface SealedBytes {
  /** All bytes of a file, if they are in memory. */
  atHand(entry: SealedEntry): Uint8Array | undefined;
  /** Opens a file whose bytes are not in memory. Never rejects. */
  load(path: string, entry: SealedEntry): Promise<Found>;
  /** Why a name cannot be opened, for an explanation. */
  diagnose(path: string): Promise<Diagnosis | undefined>;
}
