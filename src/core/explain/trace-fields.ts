import type { Answer, ResponsePlan } from "../answer/plan.js";
import { MEDIA_TYPES } from "../media-types/table.js";
import type { RuleInForce, Trace } from "./trace.js";

/** Adds a step for each header field of an answer: its value, and what set it. */
export function traceFields(trace: Trace, answer: Answer): void {
  if (answer.kind === "pass") return;
  const step = trace.find((one) => one.stage === "rules");
  const rules = new Map((step?.stage === "rules" ? step.rules : []).map((rule) => [rule.name, rule]));
  const document = trace.findLast((one) => one.stage === "candidate" && one.found === "file");
  const path = document?.stage === "candidate" ? document.path : undefined;
  const ownPage = document?.stage === "candidate" && document.role === "error page";
  const builtIn = answer.status >= 400 && !ownPage;
  const representation = trace.findLast((one) => one.stage === "representation");
  const origins = representation?.stage === "representation" ? representation.origins : {};
  for (let i = 0; i < answer.fields.length; i += 2) {
    const [name, value] = [answer.fields[i]!, answer.fields[i + 1]!];
    const because = builtIn
      ? (BUILT_IN[name] ?? ALWAYS[name])
      : (origins[name.toLowerCase()] ?? explainFile(answer, name, value, path, rules) ?? ALWAYS[name]);
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
  ETag: "validators: the file's size and time, or the digest of its bytes; each coding its own",
  "Last-Modified": "the file's time of last modification",
  "Accept-Ranges": "parts of a file can be asked for",
  "Content-Range": "the part that Range asks for",
  "Content-Encoding": "the coding that Accept-Encoding wants most, of those that can be had",
  Vary: "what the answer was negotiated by",
  Location: "a directory's address, relative to this one",
  "Content-Length": "the body is empty",
  Allow: "files are read, and nothing else",
};

function describeLength({ status, fields }: ResponsePlan, path: string): string {
  if (status === 206) return "the length of the part, or of the parts with what stands between them";
  return fields.includes("Content-Encoding") ? `the size of ${path} in its coding` : `the size of ${path}`;
}

function explainFile(
  answer: ResponsePlan,
  name: string,
  value: string,
  path: string | undefined,
  rules: ReadonlyMap<string, RuleInForce>,
): string | undefined {
  if (path === undefined) return undefined;
  if (name === "Content-Length") return describeLength(answer, path);
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
