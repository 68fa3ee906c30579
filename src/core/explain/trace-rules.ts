import type { Rules } from "../rules/rules.js";
import type { RuleInForce } from "./trace.js";

/** The rules in force as a person reads them, in the order of the resolution. */
export function listRules(rules: Rules): RuleInForce[] {
  const { appShell, errorPages, mediaTypes } = rules;
  const except = appShell?.except.length
    ? `, except ${appShell.except.map((path) => `/${path}`).join(", ")}`
    : "";
  const values: Record<string, string> = {
    withheld: ["names with a leading dot", ...rules.withheldPatterns].join(", "),
    listing:
      rules.listing === undefined ? "off" : `on, by ${rules.listing.order}, ${rules.listing.pageSize} a page`,
    unlisted: rules.unlistedPatterns.join(", "),
    impliedExtensions: rules.impliedExtensions.join(", "),
    defaultDocuments: rules.defaultDocuments.join(", "),
    appShell: appShell === undefined ? "" : `/${appShell.file}${except}`,
    errorPages: [...errorPages].map(([status, path]) => `${status}: /${path}`).join(", "),
    whenMissing: rules.whenMissing,
    mediaTypes: [...mediaTypes].map(([extension, type]) => `.${extension}: ${type}`).join(", "),
    charset: rules.charset,
    codings: [
      ...rules.codings.prebuilt.map((coding) => `${coding} prebuilt`),
      ...(rules.codings.compress ? ["made on the fly"] : []),
    ].join(", "),
    validators: rules.validators,
    caching: rules.caching.map(({ label, fields }) => `${filesOf(label)}: ${fields[1]}`).join("; "),
    headers: rules.headers
      .map(({ label, fields }) => `${filesOf(label)}: ${fields.map(([name]) => name).join(", ")}`)
      .join("; "),
    downloads: rules.downloads.map(({ label }) => filesOf(label)).join("; "),
    crossOrigin: [rules.crossOrigin ?? []].flat().join(", "),
  };
  return Object.entries(values).map(([name, value]) => ({
    name,
    value: value === "" ? "none" : value,
    origin: rules.origins[name] ?? "default",
  }));
}

/** The rules that set fields of a file's answer, by the field's name in lower case. */
export function traceOrigins(rules: Rules, path: string): Record<string, string> {
  const folded = rules.fold(path);
  const origins: Record<string, string> = {};
  const caching = rules.caching.find((rule) => rule.matches(folded, path));
  if (caching !== undefined) {
    origins["cache-control"] = caching.label;
    origins["cdn-cache-control"] = caching.label;
  }
  for (const rule of rules.headers) {
    if (rule.matches(folded, path))
      for (const [name] of rule.fields) origins[name.toLowerCase()] = rule.label;
  }
  const download = rules.downloads.find((rule) => rule.matches(folded, path));
  if (download !== undefined) origins["content-disposition"] = download.label;
  for (const name of [
    "access-control-allow-origin",
    "access-control-expose-headers",
    "cross-origin-resource-policy",
  ]) {
    origins[name] ??= `crossOrigin of ${rules.origins.crossOrigin}`;
  }
  return origins;
}

// A label reads "mounts[0].caching[1] (*.css)".
const filesOf = (label: string): string => label.slice(label.indexOf("(") + 1, -1);
