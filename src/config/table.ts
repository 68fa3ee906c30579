import { KINDS } from "./kinds.js";
import { RULE_NAMES, RULES, type RuleName } from "./rules.js";

/** The rules of the configuration as a table in Markdown, for the documentation: made from what each rule says of itself. */
export function formatRuleTable(): string {
  return [
    "| rule | what it does | default | where a kind starts with another value | for the whole site, too | inside |",
    "| --- | --- | --- | --- | --- | --- |",
    ...RULE_NAMES.map(formatRow),
  ].join("\n");
}

function formatRow(name: RuleName): string {
  const { description, defaultInWords, scope, inheritance, ...rule } = RULES[name];
  const kinds = Object.entries(KINDS).flatMap(([kind, rules]) =>
    rules[name] === undefined ? [] : [`${kind}: ${formatCode(rules[name])}`],
  );
  const cells = [
    `\`${name}\``,
    description,
    defaultInWords ?? formatCode(rule.default),
    kinds.join("; "),
    scope === "site" ? "yes" : "",
    inheritance === "adds up" ? "adds up" : "the innermost decides",
  ];
  return `| ${cells.map((cell) => cell.replaceAll("|", "\\|")).join(" | ")} |`;
}

// As it is written in YAML on one line.
function formatCode(value: unknown): string {
  const text = JSON.stringify(value)
    .replace(/"([^"]*)":/g, "$1: ")
    .replace(/"([\w./-]+)"/g, "$1")
    .replaceAll(",", ", ");
  return `\`${text}\``;
}
