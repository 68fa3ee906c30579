import type * as z from "zod";
import { own } from "../core/text/own.js";
import { suggestName } from "../core/text/suggest.js";
import { ELSEWHERE, OTHER_WORDS } from "./other-words.js";
import { keysAt } from "./schema-nodes.js";
import { exampleAt } from "./wanted.js";

/** What to write instead of a key. */
export interface KeyAdvice {
  readonly wanted: string;
  /** The key of the same place that was meant. */
  readonly meant?: string | undefined;
  /** It is right, in another place. */
  readonly isMisplaced?: boolean;
}

const write = (meant: string): KeyAdvice => ({ wanted: `write ${JSON.stringify(meant)}`, meant });

/** What to write instead of a key that a schema does not have at a path. */
export function adviseOnKey(key: string, path: readonly PropertyKey[], schema: z.ZodType): KeyAdvice {
  const allowed = keysAt(schema, path);
  const words = own(OTHER_WORDS, key.toLowerCase().replace(/[-_]/g, "")) ?? [];
  const word = words.find((one) => allowed.includes(one));
  if (word !== undefined) return write(word);
  const isOfMount = path[0] === "mounts" && keysAt(schema, path.slice(0, 2)).includes(key);
  if (isOfMount) return { wanted: "it is a key of the mount: write it beside areas", isMisplaced: true };
  if (path.length === 0 && keysAt(schema, ["mounts", 0]).includes(key)) {
    const example = exampleAt(schema, ["mounts", 0, key]) ?? `${key}: …`;
    const folder = key === "folder" ? "" : "folder: ./public, ";
    return {
      wanted: `it is a key of a mount: write mounts: [{ ${folder}${example} }]`,
      isMisplaced: true,
    };
  }
  const ofSite = [key, ...words].find((one) => keysAt(schema, []).includes(one));
  if (path[0] === "mounts" && ofSite !== undefined)
    return { wanted: `${JSON.stringify(ofSite)} is a key of the whole site: write it beside mounts` };
  const elsewhere = path.length === 1 ? undefined : own(ELSEWHERE, key);
  if (elsewhere !== undefined) return { wanted: elsewhere };
  const near = suggestName(key, allowed);
  if (near !== undefined) return write(near);
  const meant = allowed.length === 1 ? allowed[0] : undefined;
  return { wanted: `the keys allowed here are ${allowed.join(", ")}`, meant };
}
