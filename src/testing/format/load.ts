import { readFile } from "node:fs/promises";
import { dirname, resolve } from "node:path";
import { shorten } from "../../config/config-file.js";
import { parseWritten, validateWritten, type WrittenDocument } from "../../config/document.js";
import { checkPath } from "../../config/found.js";
import { SiteError } from "../../config/site-error.js";
import { suggestName } from "../../core/text/suggest.js";
import { IN_PROCESS_ADDRESS } from "../ask/ask.js";
import type { ExpectationsFile } from "./expectation-types.js";
import { expectationsSchema } from "./schema.js";
import { substitute } from "./variables.js";

/** An expectations file, read and found to be well-formed. */
export interface Expectations {
  /** The file as a person in this folder would write it. */
  readonly file: string;
  /** Absolute path of the folder it is in. */
  readonly folder: string;
  readonly written: ExpectationsFile;
  /** Absolute path of the configuration it names, when it names one. */
  readonly config: string | undefined;
  /** Where something stands in it, as `file:line:column`. */
  locate(path: readonly PropertyKey[]): string;
}

/** How an expectations file is read. */
export interface LoadOptions {
  /** The address that will be asked: what `${address}` is. */
  readonly address?: string | undefined;
  /** Values of variables that go before the file's own. */
  readonly variables?: Readonly<Record<string, string>> | undefined;
}

/** Reads an expectations file (YAML or JSON). Rejects with a SiteError that names file, line and column. */
export async function loadExpectations(path: string, options: LoadOptions = {}): Promise<Expectations> {
  checkPath("loadExpectations", path, 'loadExpectations("expectations.yaml")');
  const full = resolve(path);
  return readExpectations(await readText(full, shorten(full)), full, options);
}

/** The same for a text that stands, or will stand, in the file of an absolute path. Throws a SiteError. */
export function readExpectations(text: string, full: string, options: LoadOptions = {}): Expectations {
  const file = shorten(full);
  const document = parseWritten(text, file);
  const written = validateWritten(putVariablesIn(document, options), expectationsSchema);
  return {
    file,
    folder: dirname(full),
    written,
    config: written.config === undefined ? undefined : resolve(dirname(full), written.config),
    locate(keys) {
      const { line, column } = document.locate(keys, false) ?? FIRST;
      return `${file}:${line}:${column}`;
    },
  };
}

const FIRST = { line: 1, column: 1 };

function putVariablesIn(
  document: WrittenDocument,
  { address, variables = {} }: LoadOptions,
): WrittenDocument {
  const value = document.value as { variables?: unknown; against?: unknown } | null;
  const own = new Map<string, string>();
  if (typeof value?.variables === "object" && value.variables !== null) {
    for (const [name, text] of Object.entries(value.variables)) {
      if (typeof text === "object") {
        const found = `variables.${name}: found ${text === null ? "nothing" : "several values"}`;
        throw new SiteError(
          [
            {
              text: `${found}; a variable is one text: write it in quotes.`,
              at: document.locate(["variables", name], false) ?? FIRST,
            },
          ],
          document.file,
        );
      }
      own.set(name, String(text));
    }
  }
  for (const [name, text] of Object.entries(variables)) {
    if (!own.has(name)) {
      const near = suggestName(name, [...own.keys()]);
      const known = own.size === 0 ? "the file has none" : `its variables are ${[...own.keys()].join(", ")}`;
      throw new SiteError([
        `${document.file}: found no variable ${name}, which --set names; ${near === undefined ? known : `write ${near}`}.`,
      ]);
    }
    own.set(name, text);
  }
  // The file's own address may use variables, so it comes after them.
  const against = typeof value?.against === "string" ? value.against : undefined;
  const base = address ?? against?.replace(/\$\{(\w+)\}/g, (use, name) => own.get(name) ?? use);
  own.set("address", (base ?? IN_PROCESS_ADDRESS).replace(/\/$/, ""));
  return substitute(document, own);
}

async function readText(full: string, file: string): Promise<string> {
  try {
    return await readFile(full, "utf8");
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === "ENOENT")
      throw new SiteError([`${file}: there is no such expectations file; check the path.`]);
    throw new SiteError([
      `${file}: the expectations file cannot be read (${code}); name a YAML or JSON file.`,
    ]);
  }
}
