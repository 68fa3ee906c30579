import type { Site } from "../../site/site.js";
import { askSite } from "../ask/in-process.js";
import { askServer, type ServerOptions } from "../ask/server.js";
import { type CaseResult, type RunOptions, runCases } from "../run.js";
import type { PackName } from "./names.js";
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
  const asker =
    typeof place === "string"
      ? askServer(place, { ...options, where: "The address of a server" })
      : askSite(place);
  const site = typeof place === "string" ? undefined : place;
  try {
    return await runCases(
      await makePackCases(names, asker, { site, paths: options.paths ?? [], methods: options.methods }),
      asker,
      options,
    );
  } finally {
    await asker.close();
  }
}
