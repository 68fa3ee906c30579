import { RULE_NAMES, RULES } from "./rules.js";

/** A rule of the configuration as the documentation shows it. */
export interface RuleRow {
  readonly key: string;
  readonly description: string;
  readonly default: string;
  /** Where it may be said besides a mount and an area. */
  readonly forWholeSite: boolean;
  readonly inheritance: "innermost" | "adds up";
}

/** The rules of the configuration, for the documentation's table. */
function listRuleRows(): RuleRow[] {
  return RULE_NAMES.map((key) => {
    const rule = RULES[key];
    return {
      key,
      description: rule.description,
      default: rule.defaultInWords ?? JSON.stringify(rule.default),
      forWholeSite: rule.scope === "site",
      inheritance: rule.inheritance,
    };
  });
}

/** The table in Markdown. */
export function formatRuleTable(): string {
  const rows = listRuleRows().map(
    (row) =>
      `| \`${row.key}\` | ${row.description.replaceAll("|", "\\|")} | ${row.default === "" ? "" : `\`${row.default}\``} | ${row.forWholeSite ? "yes" : "no"} | ${row.inheritance === "adds up" ? "adds to what encloses it" : "the innermost decides"} |`,
  );
  return [
    "| key | what it does | default | also for the whole site | inside an area |",
    "| --- | --- | --- | --- | --- |",
    ...rows,
  ].join("\n");
}
