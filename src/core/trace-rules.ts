import type { Rules } from "./rules.js";
import type { RuleInForce } from "./trace.js";

/** The rules in force as a person reads them, in the order of the resolution. */
export function listRules(rules: Rules): RuleInForce[] {
  const { appShell, errorPages, mediaTypes } = rules;
  const except = appShell?.except.length
    ? `, except ${appShell.except.map((path) => `/${path}`).join(", ")}`
    : "";
  const values: Record<string, string> = {
    withheld: ["names with a leading dot", ...rules.withheldPatterns].join(", "),
    impliedExtensions: rules.impliedExtensions.join(", "),
    defaultDocuments: rules.defaultDocuments.join(", "),
    appShell: appShell === undefined ? "" : `/${appShell.file}${except}`,
    errorPages: [...errorPages].map(([status, path]) => `${status}: /${path}`).join(", "),
    whenMissing: rules.whenMissing,
    mediaTypes: [...mediaTypes].map(([extension, type]) => `.${extension}: ${type}`).join(", "),
    charset: rules.charset,
  };
  return Object.entries(values).map(([name, value]) => ({
    name,
    value: value === "" ? "none" : value,
    origin: rules.origins[name] ?? "default",
  }));
}
