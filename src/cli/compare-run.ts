import { stat } from "node:fs/promises";
import { resolve } from "node:path";
import { openTerminal } from "../adapters/log/terminal.js";
import { loadConfigFile } from "../adapters/node.js";
import { shorten } from "../config/config-file.js";
import { SiteError } from "../config/site-error.js";
import { printableJson } from "../core/text/printable.js";
import { findChanges } from "../lab/changes/find-changes.js";
import { openSubject } from "../lab/engine/open-subject.js";
import type { Subject } from "../lab/engine/subject.js";
import { openSite } from "../site/open.js";
import type { Site } from "../site/site.js";
import { findLost } from "../survey/lost/find-lost.js";
import { isSeal, releaseOf } from "../survey/lost/release.js";
import type { Asker, Question } from "../testing/ask/ask.js";
import { askSite } from "../testing/ask/in-process.js";
import { askServer, type ServerOptions } from "../testing/ask/server.js";
import { compareSites, differs } from "../testing/compare/compare.js";
import { makeQuestions, withoutRepeats } from "../testing/compare/questions.js";
import { takeSample } from "../testing/discover/sample.js";
import { expandCases } from "../testing/format/expand.js";
import { loadExpectations } from "../testing/format/load.js";
import { printChanges } from "./changes-report.js";
import { reportComparison } from "./compare-html.js";
import type { CompareOptions } from "./compare-options.js";
import { printComparisons, toComparisonJson } from "./compare-report.js";
import { chooseDefinition } from "./definition.js";
import { printLost } from "./lost-report.js";
import { openProgress } from "./progress.js";
import { clearReports, writeReports } from "./report-targets.js";

interface Party {
  readonly asker: Asker;
  /** Of a configuration, what it makes. */
  readonly subject: Subject | undefined;
}

/** Compares two places. Sets the exit status. */
export async function runCompare(
  here: string,
  there: string,
  files: readonly string[],
  options: CompareOptions,
): Promise<void> {
  await clearReports(options.report ?? []);
  if (await areReleases(here, there)) {
    if (files.length > 0)
      throw new SiteError([
        `${files[0]}: releases are compared by their files; leave the expectations out, or compare two configurations or addresses.`,
      ]);
    process.exitCode = await compareReleases(here, there, options);
    return;
  }
  const first = await openPlace(here, "HERE", options);
  const second = await openPlace(there, "THERE", options);
  const { subject: before } = first;
  const { subject: after } = second;
  // Of two configurations everything is known: nothing has to be found out by asking.
  if (before !== undefined && after !== undefined && files.length === 0 && options.path === undefined) {
    process.exitCode = await compareConfigurations({ here, before, there, after }, options);
    return;
  }
  const progress = openProgress(process.stderr);
  try {
    const questions = withoutRepeats(await findQuestions(first, files, options.path ?? []));
    progress.begin(questions.length);
    const comparisons = await compareSites(questions, first.asker, second.asker, (done) =>
      progress.count({ outcome: "compared" }, done),
    );
    progress.end();
    if (comparisons.every(({ unanswered }) => unanswered?.there !== undefined)) {
      const because = comparisons[0]?.unanswered?.there;
      throw new SiteError([`THERE: ${second.asker.about} does not answer: ${because}.`]);
    }
    const earlier = first.subject?.site;
    const now = second.subject?.site;
    const lost =
      earlier === undefined || now === undefined
        ? undefined
        : await findLost(await releaseOf(here, earlier), await releaseOf(there, now));
    const names = { here: first.asker.about, there: second.asker.about };
    const all = options.allFields === true;
    await writeReports(openTerminal(process.stdout), options.report ?? [], {
      pretty(terminal) {
        printComparisons(terminal, comparisons, names, all);
        if (lost === undefined) return;
        terminal.print();
        printLost(terminal, lost);
      },
      json: () => printableJson({ ...toComparisonJson(comparisons, names, all), lost }, 2),
      html: () => reportComparison(names, { answers: { comparisons, all }, lost }),
    });
    const { failOn } = options;
    const isLost = lost !== undefined && lost.addresses.length > 0;
    process.exitCode =
      (failOn !== "never" && isLost) || (failOn === "difference" && comparisons.some(differs)) ? 1 : 0;
  } finally {
    progress.end();
    await first.asker.close();
    await second.asker.close();
  }
}

// Folders and seals have no rules of their own to be asked about: what they lost is told.
async function areReleases(here: string, there: string): Promise<boolean> {
  const both = [here, there];
  if (both.some((one) => /^https?:/i.test(one))) return false;
  const kinds = await Promise.all(
    both.map(
      async (one) => (await stat(one).catch(() => undefined))?.isDirectory() === true || (await isSeal(one)),
    ),
  );
  return kinds.some(Boolean);
}

async function compareReleases(
  here: string,
  there: string,
  { report = [], failOn }: CompareOptions,
): Promise<number> {
  const lost = await findLost(here, there);
  await writeReports(openTerminal(process.stdout), report, {
    pretty: (terminal) => printLost(terminal, lost),
    json: () => printableJson({ version: 1, lost }, 2),
    html: () => reportComparison({ here: lost.earlier, there: lost.current }, { lost }),
  });
  return failOn !== "never" && lost.addresses.length > 0 ? 1 : 0;
}

interface TwoSites {
  readonly here: string;
  readonly before: Subject;
  readonly there: string;
  readonly after: Subject;
}

async function compareConfigurations(
  { here, before, there, after }: TwoSites,
  { report = [], failOn }: CompareOptions,
): Promise<number> {
  const changes = await findChanges(before, after);
  const lost = await findLost(await releaseOf(here, before.site), await releaseOf(there, after.site));
  const names = { here: shorten(resolve(here)), there: shorten(resolve(there)) };
  await writeReports(openTerminal(process.stdout), report, {
    pretty(terminal) {
      printChanges(terminal, changes, names);
      if (lost.addresses.length === 0) return;
      terminal.print();
      printLost(terminal, lost);
    },
    json: () => printableJson({ version: 1, ...names, changes, lost }, 2),
    html: () => reportComparison(names, { changes, lost }),
  });
  const isLost = lost.addresses.length > 0;
  return (failOn !== "never" && isLost) || (failOn === "difference" && changes.changed > 0) ? 1 : 0;
}

async function openPlace(written: string, where: string, options: CompareOptions): Promise<Party> {
  if (!/^https?:/i.test(written) && /\.(?:ya?ml|json|m?js)$/.test(written)) {
    const subject = await openSubject(await loadConfigFile(resolve(written)));
    return { asker: askSite(subject.site, shorten(resolve(written))), subject };
  }
  if (!/^https?:/i.test(written)) {
    if ((await stat(written).catch(() => undefined))?.isDirectory()) {
      const subject = await openSubject(await chooseDefinition(written, undefined, {}));
      return { asker: askSite(subject.site, shorten(resolve(written))), subject };
    }
    const what = (await isSeal(written))
      ? "which is a seal: it has no contents to hold against answers; write the folder"
      : "which does not exist; write the address of a site, a configuration file, a folder or a seal file";
    throw new SiteError([`${where}: found ${JSON.stringify(written)}, ${what}.`]);
  }
  const { header, timeout, concurrency, insecureTls } = options;
  const server: ServerOptions = { headers: header, timeoutMs: timeout, concurrency, insecureTls, where };
  return { asker: askServer(written, server), subject: undefined };
}

async function findQuestions(
  { asker, subject }: Party,
  files: readonly string[],
  paths: readonly string[],
): Promise<Question[]> {
  const site = subject?.site;
  if (files.length === 0) {
    const sample = await takeSample(asker, { site, paths }).catch((error: Error) => {
      throw new SiteError([`HERE: ${asker.about} does not answer: ${error.message}.`]);
    });
    return makeQuestions(sample);
  }
  const questions: Question[] = paths.map((path) => ({ method: "GET", path, headers: {} }));
  for (const file of files) {
    const expectations = await loadExpectations(file, { address: asker.address });
    const own = site ?? (expectations.config === undefined ? undefined : await openOwn(expectations.config));
    const cases = await expandCases(expectations, own && (async () => listFiles(own)));
    questions.push(...cases.map(({ question }) => question));
  }
  return questions;
}

async function openOwn(config: string): Promise<Site | undefined> {
  // Its files matter to `each` only; where they are not there, that says so.
  return openSite(await loadConfigFile(config)).catch(() => undefined);
}

async function listFiles(site: Site) {
  const entries = [];
  for await (const entry of site.files()) entries.push(entry);
  return entries;
}
