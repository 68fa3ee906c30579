import { readFile } from "node:fs/promises";
import { dirname, resolve } from "node:path";
import { shorten } from "../site/config-file.js";
import { parseWritten, validateWritten } from "../site/document.js";
import { SiteError } from "../site/problems.js";
import { type Case, expectationsSchema, toCase } from "./format.js";

export interface Expectations {
  /** The file as a person in this folder would write it. */
  readonly file: string;
  /** Absolute path of the configuration it names, when it names one. */
  readonly config: string | undefined;
  readonly cases: readonly Case[];
}

/** Reads an expectations file (YAML or JSON). Rejects with a SiteError that names file, line and column. */
export async function loadExpectations(path: string): Promise<Expectations> {
  const full = resolve(path);
  const file = shorten(full);
  const document = parseWritten(await readText(full, file), file);
  const written = validateWritten(document, expectationsSchema);
  return {
    file,
    config: written.config === undefined ? undefined : resolve(dirname(full), written.config),
    cases: written.cases.map((one, index) =>
      toCase(one, `${file}:${document.locate(["cases", index], false) ?? "1:1"}`),
    ),
  };
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
