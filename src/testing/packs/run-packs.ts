import { formatFound } from "../../config/found.js";
import { suggestName } from "../../core/text/suggest.js";
import type { Site } from "../../site/site.js";
import { askPlace } from "../ask/place.js";
import type { ServerOptions } from "../ask/server.js";
import { type CaseResult, type RunOptions, runCases } from "../run.js";
import { PACK_NAMES, type PackName } from "./names.js";
import { makePackCases } from "./packs.js";

/** How packs run: against what, and with which fields. */
export interface PackOptions extends RunOptions, Pick<ServerOptions, "headers" | "insecureTls"> {
  /** More addresses to look at. */
  readonly paths?: readonly string[] | undefined;
  /** Tries methods that write on a server that is not on this machine, too; default false. */
  readonly methods?: boolean | undefined;
}

/** Runs ready-made packs against a site in this process, or the server at an address. Rejects when it does not answer at all. */
export async function runPacks(
  place: Site | string,
  names: readonly PackName[],
  options: PackOptions = {},
): Promise<CaseResult[]> {
  const { asker, site } = askPlace("runPacks", place, options);
  checkNames(names);
  try {
    return await runCases(
      await makePackCases(names, { asker, site, paths: options.paths, methods: options.methods }),
      asker,
      options,
    );
  } finally {
    await asker.close();
  }
}

function checkNames(names: unknown): void {
  if (!Array.isArray(names))
    throw new TypeError(`runPacks: found ${formatFound(names)} instead of a list; write ["links"].`);
  for (const name of names) {
    if (PACK_NAMES.includes(name)) continue;
    const near = suggestName(String(name), PACK_NAMES);
    const wanted =
      near === undefined ? `the packs are ${PACK_NAMES.join(", ")}` : `write ${JSON.stringify(near)}`;
    throw new TypeError(`runPacks: found the pack ${formatFound(name)}; ${wanted}.`);
  }
}
