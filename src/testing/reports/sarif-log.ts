import { printableJson } from "../../core/text/printable.js";
/** A result as the format has it (SARIF 2.1.0 §3.27), without its rule. */
export interface SarifResult {
  readonly rule: string;
  readonly level: "error" | "warning" | "note";
  readonly [property: string]: unknown;
}

/** A log of the Static Analysis Results Interchange Format 2.1.0 (OASIS), with the rules that its results name. */
export function formatSarif(
  tool: string,
  describeRule: (rule: string) => string,
  results: readonly SarifResult[],
): string {
  const rules = [...new Set(results.map(({ rule }) => rule))];
  const log = {
    $schema: "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
    version: "2.1.0",
    runs: [
      {
        tool: {
          driver: {
            name: tool,
            rules: rules.map((id) => ({ id, shortDescription: { text: describeRule(id) } })),
          },
        },
        results: results.map(({ rule, ...result }) => ({
          ruleId: rule,
          ruleIndex: rules.indexOf(rule),
          ...result,
        })),
      },
    ],
  };
  return `${printableJson(log, 2)}\n`;
}

/** A path from the root of the project as a URI reference (§3.4). */
export function toUri(path: string): string {
  return path.split("/").map(encodeURIComponent).join("/");
}
