import { EXPOSURES, findExposure } from "../exposures.js";

/** Of these a name alone says too little: many are meant for visitors. */
const DOUBTFUL: ReadonlySet<string> = new Set(["source", "editor-leftover"]);

const TRIED = EXPOSURES.filter(({ code, names }) => names !== undefined && !DOUBTFUL.has(code)).flatMap(
  ({ tried, what }) => tried.map((address) => [address.slice(address.lastIndexOf("/") + 1), what] as const),
);

/** What a pattern seems to be meant to hide; undefined for one that is about something else, or about everything. */
export function describePrivateNames(matches: (path: string) => boolean): string | undefined {
  if (matches("ordinary-name.html") && matches("picture.png")) return undefined;
  return TRIED.find(([name]) => matches(name))?.[1];
}

/** What a file with this name seems to be, when it is rarely meant for visitors. */
export function describePrivateName(path: string): string | undefined {
  const found = findExposure(path);
  return found === undefined || DOUBTFUL.has(found.code) ? undefined : found.what;
}
