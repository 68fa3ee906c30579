import { readdir } from "node:fs/promises";
import { join } from "node:path";
import type { JudgedName } from "../core/resolve/walk.js";
import type { Mount } from "../core/rules/mount.js";
import { writeCommand } from "../core/text/command.js";
import type { SurveyContext } from "./survey-context.js";

const RENAME = "Rename it with letters, digits, dots and hyphens.";

/** Reports a name that no address can have, with a command that gives it another one. */
export async function reportUnreachable(
  context: SurveyContext,
  mount: Mount,
  { path, name }: JudgedName,
): Promise<void> {
  const folder = path.slice(0, path.length - name.length);
  const bytes = name.includes("\ufffd") ? await readBytes(context, mount, { folder, name }) : undefined;
  const from = context.locate({ mount, path });
  const locateAs = (other: string): string => context.locate({ mount, path: folder + other });
  const raw = bytes === undefined ? undefined : [Buffer.from(from.slice(0, -name.length)), bytes];
  context.report(
    "name-without-address",
    { mount, path },
    raw === undefined
      ? "Its name has a character that is not allowed in addresses, so nobody can ask for it."
      : "Its name is not UTF-8, so no address can have it, and nobody can ask for it.",
    raw === undefined
      ? writeCommand(from, (quoted) => writeMove(quoted, locateAs(plainName(name))), RENAME)
      : writeMove(`"$(printf '${escapeBytes(Buffer.concat(raw))}')"`, locateAs(decodeName(raw[1]!))),
  );
}

// The name as the disk has it: what a name that is not UTF-8 is read as does not lead to the file.
async function readBytes(
  context: SurveyContext,
  mount: Mount,
  { folder, name }: { readonly folder: string; readonly name: string },
): Promise<Buffer | undefined> {
  const root = context.rootOf(mount);
  if (root === undefined) return undefined;
  const names = await readdir(join(root, folder), { encoding: "buffer" }).catch(() => []);
  // What an end of a line is at the end would not come back from the shell.
  return names.find((one) => one.toString() === name && one.at(-1) !== 0x0a);
}

const writeMove = (quoted: string, to: string): string =>
  writeCommand(to, (quotedTo) => `mv -n -- ${quoted} ${quotedTo}`, RENAME);

const plainName = (name: string): string => name.replace(/[^\w.-]+/g, "-").replace(/^-/, "_");

/** Most names that are not UTF-8 come from Latin-1. */
const decodeName = (bytes: Buffer): string =>
  new TextDecoder("windows-1252")
    .decode(bytes)
    .replace(/[^\p{L}\p{N}._ -]+/gu, "-")
    .replace(/^-/, "_");

/** Bytes as `printf` writes them (POSIX, the file format notation): nothing in them means anything to a shell. */
function escapeBytes(bytes: Buffer): string {
  return [...bytes]
    .map((byte) =>
      /[\w./]/.test(String.fromCharCode(byte)) && byte < 0x80
        ? String.fromCharCode(byte)
        : `\\${byte.toString(8).padStart(3, "0")}`,
    )
    .join("");
}
