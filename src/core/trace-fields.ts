import { MEDIA_TYPES } from "./media-types/table.js";
import type { Answer } from "./plan.js";
import type { RuleInForce, Trace } from "./trace.js";

/** Adds a step for each header field of an answer: its value, and what set it. */
export function traceFields(trace: Trace, answer: Answer): void {
  if (answer.kind === "pass") return;
  const step = trace.find((one) => one.stage === "rules");
  const rules = new Map((step?.stage === "rules" ? step.rules : []).map((rule) => [rule.name, rule]));
  const document = trace.findLast((one) => one.stage === "candidate" && one.found === "file");
  const path = document?.stage === "candidate" ? document.path : undefined;
  const builtIn = answer.status >= 400 && answer.fields.includes("Vary");
  for (let i = 0; i < answer.fields.length; i += 2) {
    const [name, value] = [answer.fields[i]!, answer.fields[i + 1]!];
    const because = builtIn
      ? (BUILT_IN[name] ?? ALWAYS[name])
      : (explainFile(name, value, path, rules) ?? ALWAYS[name]);
    trace.push({ stage: "field", name, value, because: because ?? "the answer's kind" });
  }
}

const BUILT_IN: Readonly<Record<string, string>> = {
  "Content-Type": "the built-in body in the form that Accept wants most: text, HTML or problem details",
  "Content-Length": "the length of the built-in body",
  Vary: "the form was negotiated",
  "Content-Security-Policy": "built-in pages let nothing run",
};

const ALWAYS: Readonly<Record<string, string>> = {
  "Cache-Control": "no caching rule: a copy is revalidated each time",
  "X-Content-Type-Options": "always",
  ETag: "the file's size and time of last modification",
  "Last-Modified": "the file's time of last modification",
  Location: "a directory's address, relative to this one",
  "Content-Length": "the body is empty",
  Allow: "files are read, and nothing else",
};

function explainFile(
  name: string,
  value: string,
  path: string | undefined,
  rules: ReadonlyMap<string, RuleInForce>,
): string | undefined {
  if (path === undefined) return undefined;
  if (name === "Content-Length") return `the size of ${path}`;
  if (name !== "Content-Type") return undefined;
  const [type, charset] = value.split("; ");
  const extension = path.slice(path.lastIndexOf(".") + 1).toLowerCase();
  const added = rules.get("mediaTypes");
  const source =
    added !== undefined && added.value !== "none" && MEDIA_TYPES.get(extension) !== type
      ? `mediaTypes of ${added.origin}`
      : MEDIA_TYPES.has(extension)
        ? `.${extension} in the built-in table`
        : "no known extension";
  return charset === undefined ? source : `${source}; charset: ${rules.get("charset")?.origin ?? "default"}`;
}
