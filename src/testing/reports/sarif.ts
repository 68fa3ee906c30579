import { PACKS_IN_WORDS, type PackName } from "../packs/names.js";
import { type CaseResult, isBad } from "../run.js";
import { describeFailure, formatFailure } from "./failure.js";
import type { Run } from "./run.js";
import { formatSarif, type SarifResult, toUri } from "./sarif-log.js";

/** Rules stand for packs, and one for what expectations files say. */
const OWN = "expectation";

/** The results in the Static Analysis Results Interchange Format 2.1.0 (OASIS): failures, known ones as suppressed, and advice. */
export function reportSarif(runs: readonly Run[]): string {
  const told = runs.flatMap((run) =>
    run.results
      .filter((result) => isBad(result) || result.outcome === "known" || result.outcome === "advised")
      .map((result) => ({ run, result })),
  );
  return formatSarif(
    "epistyle check",
    describeRule,
    told.map(({ run, result }) => toResult(run, result)),
  );
}

function ruleOf({ case: { group, position } }: CaseResult): string {
  return position === undefined && group !== undefined ? group : OWN;
}

function describeRule(id: string): string {
  return id in PACKS_IN_WORDS
    ? PACKS_IN_WORDS[id as PackName]
    : "what an expectations file says about the site";
}

function toResult(run: Run, result: CaseResult): SarifResult {
  const { name, group, position, advice, question } = result.case;
  const title = group === undefined ? name : `${group}: ${name}`;
  const text =
    result.outcome === "advised"
      ? `${title}: ${advice}`
      : `${title}\n${formatFailure(describeFailure(result))}`;
  return {
    rule: ruleOf(result),
    level: result.outcome === "advised" ? "note" : "error",
    message: { text },
    locations: [
      {
        ...toPlace(position ?? (run.inFile ? `${run.title}:1:1` : undefined)),
        logicalLocations: [{ fullyQualifiedName: run.address + question.path, kind: "resource" }],
      },
    ],
    // §3.27.17: the same failure in another run.
    partialFingerprints: { "case/v1": title },
    ...(result.outcome === "known" && {
      suppressions: [{ kind: "external", justification: result.because }],
    }),
  };
}

// §3.29: a path from the root of the project, as a URI reference.
function toPlace(position: string | undefined): object {
  const match = /^(.*):(\d+):(\d+)$/.exec(position ?? "");
  if (match === null) return {};
  const [, file, line, column] = match;
  return {
    physicalLocation: {
      artifactLocation: { uri: toUri(file!) },
      region: { startLine: Number(line), startColumn: Number(column) },
    },
  };
}
