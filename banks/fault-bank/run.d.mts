import type { PACK_NAMES, runPacks } from "../../src/testing/index.js";

export declare function runRightServers(
  product: { runPacks: typeof runPacks; PACK_NAMES: typeof PACK_NAMES },
  wanted?: (one: { what: string }) => boolean,
): Promise<{ what: string; lines: string[] }[]>;

interface Fault {
  readonly area: string;
  readonly what: string;
}
export declare function runFaults(
  product: object,
  faults: readonly Fault[],
): Promise<(Fault & { packs: string[]; draft: string[]; compare: string[]; speaks: boolean })[]>;
