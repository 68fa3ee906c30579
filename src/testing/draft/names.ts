import { describePrivateName } from "../../config/hiding/private-names.js";
import { unescapeText } from "../../core/text/unescape.js";
import type { Kind } from "../../reading/contents/kinds.js";
import type { DraftGroup } from "./observed.js";

const GROUP_OF: Readonly<Record<Kind, DraftGroup>> = {
  document: "documents",
  script: "scripts and style sheets",
  style: "scripts and style sheets",
  picture: "pictures and fonts",
  font: "pictures and fonts",
  sound: "sound and video",
  film: "sound and video",
  data: "data and downloads",
  text: "data and downloads",
  other: "data and downloads",
};

export function groupOfKind(kind: Kind): DraftGroup {
  return GROUP_OF[kind];
}

const NAMES: Readonly<Record<Kind, string>> = {
  document: "a document",
  script: "a script",
  style: "a style sheet",
  picture: "a picture",
  font: "a font",
  sound: "a recording",
  film: "a film",
  data: "data",
  text: "a text",
  other: "a file",
};

export function nameKind(kind: Kind, extension: string, fingerprinted: boolean): string {
  const ending = extension === "" ? "" : ` (${extension})`;
  return `${NAMES[kind]}${ending}${fingerprinted ? " with a fingerprint in its name" : ""}`;
}

/** The comment of a file whose name is another one with the next build. */
export const NAME_CHANGES = "The name changes with the content.";

/** The last name of an address, without its query, unescaped. */
export function nameOf(address: string): string {
  const path = address.replace(/\?.*$/s, "");
  return unescapeText(path.slice(path.lastIndexOf("/") + 1));
}

/** True for an address whose name is never meant for visitors: a draft does not expect that it is served. */
export function isNeverMeant(address: string): boolean {
  const name = nameOf(address);
  return describePrivateName(name) !== undefined || (name.startsWith(".") && name !== ".well-known");
}
