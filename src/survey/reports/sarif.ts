import type { Severity } from "../finding.js";
import { titleOf } from "../survey-context.js";
import type { JudgedSurvey } from "./json.js";

const LEVELS: Readonly<Record<Severity, string>> = { severe: "error", warning: "warning", advice: "note" };

/** The survey in the Static Analysis Results Interchange Format 2.1.0 (OASIS), which code hosts show beside the files. */
export function reportSarif({ findings }: JudgedSurvey): string {
  const codes = [...new Set(findings.map(({ code }) => code))];
  const log = {
    $schema: "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
    version: "2.1.0",
    runs: [
      {
        tool: {
          driver: {
            name: "epistyle survey",
            rules: codes.map((code) => ({ id: code, shortDescription: { text: titleOf(code) } })),
          },
        },
        results: findings.map(({ code, severity, address, file, reason, fix }) => ({
          ruleId: code,
          ruleIndex: codes.indexOf(code),
          level: LEVELS[severity],
          message: { text: `${address}: ${reason} Fix: ${fix}` },
          locations: [{ physicalLocation: { artifactLocation: { uri: file === "" ? "." : toUri(file) } } }],
          // §3.27.17: the same finding in another run.
          partialFingerprints: { "codeAndFile/v1": `${code}:${file}` },
        })),
      },
    ],
  };
  return `${JSON.stringify(log, null, 2)}\n`;
}

function toUri(path: string): string {
  return path.split("/").map(encodeURIComponent).join("/");
}
