import { mediaTypeByName } from "../../core/media-types/media-type.js";
import { CODING_ENDINGS } from "../../core/rules/codings.js";
import { decideKind, type Kind } from "../contents/kinds.js";

const ENDINGS = [...Object.values(CODING_ENDINGS), ".map"];

/** The name that a coding or a source map is named after; any other name as it is. */
export function withoutCompanion(name: string): string {
  let end = name.length;
  for (;;) {
    const ending = ENDINGS.find((one) => name.endsWith(one, end));
    if (ending === undefined) return name.slice(0, end);
    end -= ending.length;
  }
}

/** What a file is for, as its name says. */
export const kindByName = (name: string): Kind => decideKind(mediaTypeByName(name, new Map()));

/** True for a path that a browser shows as a page: no part of its name is a fingerprint. */
export const isDocument = (path: string): boolean => kindByName(path) === "document";
