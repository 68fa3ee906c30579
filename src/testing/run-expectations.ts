import type { Site } from "../site/site.js";
import { askPlace } from "./ask/place.js";
import { makeFileCases } from "./format/file-cases.js";
import { loadExpectations } from "./format/load.js";
import type { PackOptions } from "./packs/run-packs.js";
import { type CaseResult, runCases } from "./run.js";

/** How an expectations file runs. */
export interface ExpectationsOptions extends PackOptions {
  /** Values of variables that go before the file's own. */
  readonly variables?: Readonly<Record<string, string>> | undefined;
}

/**
 * Runs an expectations file as `epistyle check` does, its packs included, against a site in this process or the server at an address. Rejects
 * with a SiteError that names file, line and column for what is wrong in it, and with an Error when the server does not answer at all.
 */
export async function runExpectations(
  path: string,
  place: Site | string,
  { variables, ...options }: ExpectationsOptions = {},
): Promise<CaseResult[]> {
  const { asker, site } = askPlace("runExpectations", place, options);
  try {
    const expectations = await loadExpectations(path, { address: asker.address, variables });
    const { paths, methods } = options;
    return await runCases(await makeFileCases(expectations, { asker, site, paths, methods }), asker, options);
  } finally {
    await asker.close();
  }
}
