/** Where a rule is said. */
export interface Origin {
  /** In words, for explanations: "default", "kind app", "site", `mounts[0].areas["/records"]`. */
  readonly words: string;
  /** The place in the configuration, as messages name it: `mounts[0].areas["/records"]`, or "" for the whole; undefined where nothing is written. */
  readonly place: string | undefined;
  readonly by: "default" | "kind" | "developer";
}

export const DEFAULT_ORIGIN: Origin = { words: "default", place: undefined, by: "default" };

/** The path of a key at a place: `mounts[0].caching`; undefined where nothing is written. */
export function keyAt({ place }: Origin, key: string): string | undefined {
  return place === undefined || place === "" ? place && key : `${place}.${key}`;
}
