import { relative } from "node:path";
import { writeSeal } from "../adapters/node.js";
import type { SiteDefinition } from "../config/define.js";
import { formatCount, formatSize } from "../core/text/size.js";
import { openSite } from "../site/open.js";
import { groupFindings, type Severity, surveySite } from "../survey/index.js";
import { askSite } from "../testing/ask/in-process.js";
import { makeFileCases } from "../testing/format/file-cases.js";
import { loadExpectations } from "../testing/format/load.js";
import { describeFailure, formatFailure } from "../testing/reports/failure.js";
import { checkedNothing, countResults, gatherAdvice, speakCounts } from "../testing/reports/run.js";
import { type CaseResult, isBad, runCases } from "../testing/run.js";

/** Whom a build tells. */
export interface Told {
  info(text: string): void;
  warn(text: string): void;
}

/** From the worst to the least. */
const LEVELS: readonly Severity[] = ["severe", "warning", "advice"];

/** Looks what was built over; gives the sentences that stop the build, and tells the others. */
export async function surveyBuild(
  definition: SiteDefinition,
  failOn: Severity | "never",
  told: Told,
): Promise<string[]> {
  const { findings, files } = await surveySite(definition);
  const stopping: string[] = [];
  for (const { severity, title, code, findings: all, fix } of groupFindings(findings)) {
    const [first] = all;
    const more = all.length === 1 ? "" : ` and ${formatCount(all.length - 1)} more`;
    const text = `${severity}: ${title} (${code}): ${first!.address}${more}. ${first!.reason} Fix: ${fix ?? first!.fix}`;
    if (failOn !== "never" && LEVELS.indexOf(severity) <= LEVELS.indexOf(failOn)) stopping.push(text);
    else told.warn(text);
  }
  if (findings.length === 0) told.info(`The survey of ${formatCount(files)} files found nothing.`);
  return stopping;
}

/** Runs expectations files on what was built, in process; gives the failures that stop the build. */
export async function checkBuild(
  definition: SiteDefinition,
  files: readonly string[],
  told: Told,
): Promise<string[]> {
  const site = await openSite(definition);
  const asker = askSite(site);
  const looks = new Map();
  const all: CaseResult[] = [];
  const failures: string[] = [];
  try {
    for (const file of files) {
      const cases = await makeFileCases(await loadExpectations(file), { asker, site, looks });
      const results = await runCases(cases, asker);
      all.push(...results);
      for (const result of results.filter(isBad))
        failures.push(
          `${relative(process.cwd(), file)}: ${result.case.name}\n${formatFailure(describeFailure(result))}`,
        );
    }
  } finally {
    await asker.close();
  }
  told.info(`The built files against their expectations: ${speakCounts(countResults(all))}`);
  for (const [advice, results] of gatherAdvice(all))
    told.warn(
      `advice: ${advice} (${formatCount(results.length)} ${results.length === 1 ? "case" : "cases"})`,
    );
  if (checkedNothing(all)) failures.push("Nothing was checked: every case was skipped.");
  return failures;
}

/** Seals what was built. */
export async function sealBuild(definition: SiteDefinition, out: string, told: Told): Promise<void> {
  const { files, bytes, warnings } = await writeSeal(definition, out);
  for (const warning of warnings) told.warn(warning);
  told.info(`${relative(process.cwd(), out)} is written: ${formatCount(files)} files, ${formatSize(bytes)}.`);
}
