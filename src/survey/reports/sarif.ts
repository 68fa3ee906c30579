import { formatSarif, type SarifResult, toUri } from "../../testing/reports/sarif-log.js";
import type { Severity } from "../finding.js";
import { titleOf } from "../survey-context.js";
import type { JudgedSurvey } from "./json.js";

const LEVELS: Readonly<Record<Severity, SarifResult["level"]>> = {
  severe: "error",
  warning: "warning",
  advice: "note",
};

/** How many files of one finding are told: hosts take no more. */
const LOCATIONS = 100;

/** The survey in the Static Analysis Results Interchange Format 2.1.0 (OASIS), which code hosts show beside the files. */
export function reportSarif({ findings }: JudgedSurvey): string {
  return formatSarif(
    "epistyle survey",
    titleOf,
    findings.map(({ code, severity, address, file, reason, fix, places }) => ({
      rule: code,
      level: LEVELS[severity],
      message: { text: `${address}: ${reason} Fix: ${fix}` },
      locations: (places ?? [{ file }]).slice(0, LOCATIONS).map((one) => ({
        physicalLocation: { artifactLocation: { uri: one.file === "" ? "." : toUri(one.file) } },
      })),
      // §3.27.17: the same finding in another run.
      partialFingerprints: { "codeAndFile/v1": `${code}:${file}` },
    })),
  );
}
