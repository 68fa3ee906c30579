import type * as z from "zod";
import { own } from "../core/text/own.js";
import { suggestName } from "../core/text/suggest.js";
import { ELSEWHERE, OTHER_WORDS } from "./other-words.js";
import { keysAt } from "./schema-nodes.js";
import { exampleAt } from "./wanted.js";

/** What to write instead of a key that a schema does not have at a path. */
export function adviseOnKey(key: string, path: readonly PropertyKey[], schema: z.ZodType): string {
  const allowed = keysAt(schema, path);
  const words = own(OTHER_WORDS, key.toLowerCase().replace(/[-_]/g, "")) ?? [];
  const word = words.find((one) => allowed.includes(one));
  if (word !== undefined) return `write ${JSON.stringify(word)}`;
  const isOfMount = path[0] === "mounts" && keysAt(schema, path.slice(0, 2)).includes(key);
  if (isOfMount) return "it is a key of the mount: write it beside areas";
  if (path.length === 0 && keysAt(schema, ["mounts", 0]).includes(key)) {
    const example = exampleAt(schema, ["mounts", 0, key]) ?? `${key}: …`;
    const folder = key === "folder" ? "" : "folder: ./public, ";
    return `it is a key of a mount: write mounts: [{ ${folder}${example} }]`;
  }
  const ofSite = [key, ...words].find((one) => keysAt(schema, []).includes(one));
  if (path[0] === "mounts" && ofSite !== undefined)
    return `${JSON.stringify(ofSite)} is a key of the whole site: write it beside mounts`;
  const elsewhere = path.length === 1 ? undefined : own(ELSEWHERE, key);
  if (elsewhere !== undefined) return elsewhere;
  const near = suggestName(key, allowed);
  return near === undefined
    ? `the keys allowed here are ${allowed.join(", ")}`
    : `write ${JSON.stringify(near)}`;
}
