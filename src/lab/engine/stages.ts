import type { Answer } from "../../core/answer/plan.js";
import { describeReason, type Reason } from "../../core/explain/reason.js";
import type { RuleInForce, TraceStep } from "../../core/explain/trace.js";
import { findDecidingStage, listDecidingRules } from "../../inspection/explain/decided.js";
import type { Explanation } from "../../site/site.js";
import type { Stage, StageRow } from "../shapes.js";
import type { Subject } from "./subject.js";
import { findWritten } from "./written.js";

type Step<Name> = Extract<TraceStep, { stage: Name }>;

/** The stages from target to answer, each with what it decided and why. One of them decided the answer; what lies behind it was not reached. */
export function toStages(
  explanation: Explanation,
  status: string,
  answer: string,
  subject: Subject,
): Stage[] {
  const { trace, answer: given } = explanation;
  const steps = <Name extends TraceStep["stage"]>(name: Name): Step<Name>[] =>
    trace.filter((step): step is Step<Name> => step.stage === name);
  const decider = findDecidingStage(given);
  const stages = [
    tellTarget(steps("target")),
    tellMount(steps("mount")),
    tellRules(steps("rules"), decider === "method" ? given.reason : undefined, subject),
    tellFile(steps("candidate"), given, { named: answer, rules: steps("rules")[0]?.rules ?? [], subject }),
    tellForm(steps("variant"), steps("representation"), given),
    tellConditions(steps("precondition"), given),
    tellRange(steps("range"), given),
  ];
  const at = stages.findIndex(({ name }) => name === (decider === "method" ? "rules" : decider));
  const reached = stages.map(
    (stage, index): Stage => ({
      ...stage,
      state: index === at ? "decided" : index > at && !hasSteps(stage) ? "not reached" : "passed",
    }),
  );
  return [...reached, { name: "answer", decided: status, why: explanation.why, state: "passed", rows: [] }];
}

type Told = Omit<Stage, "state">;

const hasSteps = ({ rows }: Told): boolean => rows.length > 0;

function tellTarget([step]: Step<"target">[]): Told {
  if (step === undefined) return { name: "target", decided: "*", why: "the server as a whole", rows: [] };
  if ("problem" in step) {
    const why = describeReason({ code: step.problem.code });
    return {
      name: "target",
      decided: "cannot be read",
      why,
      rows: [{ cells: [step.problem.found, why], tone: "miss" }],
    };
  }
  const { path, directoryForm, query } = step.target;
  const decided = `/${path}${directoryForm && path !== "" ? "/" : ""}`;
  const why = directoryForm ? "a directory's address" : "a file's address";
  const rows: StageRow[] = [{ cells: ["path", decided, why] }];
  if (query !== "") rows.push({ cells: ["query", query, "no extension"] });
  return { name: "target", decided, why, rows };
}

function tellMount([step]: Step<"mount">[]): Told {
  if (step === undefined) return { name: "mount", decided: "—", why: "", rows: [] };
  if (step.at === undefined) {
    const rows = step.known.map(
      (at): StageRow => ({ cells: [at, "does not cover this path"], tone: "miss" }),
    );
    return { name: "mount", decided: "none", why: "no mount covers this path", rows };
  }
  const { at, source, path } = step;
  const rows: StageRow[] = [
    { cells: [at, `from ${source}`, path === "" ? "the folder itself" : path], tone: "hit" },
  ];
  return { name: "mount", decided: at, why: `files of ${source}`, rows };
}

function tellRules([step]: Step<"rules">[], byMethod: Reason | undefined, subject: Subject): Told {
  const why = byMethod === undefined ? "" : describeReason(byMethod);
  if (step === undefined)
    return { name: "rules", decided: byMethod === undefined ? "—" : "method", why, rows: [] };
  const isSaid = ({ origin }: RuleInForce): boolean => origin !== "default" && !origin.startsWith("kind ");
  const ordered = step.rules.toSorted((a, b) => Number(isSaid(b)) - Number(isSaid(a)));
  const said = step.rules.filter(isSaid).length;
  const rows = ordered.map(
    (rule): StageRow => ({
      cells: [rule.name, rule.value, rule.origin],
      tone: isSaid(rule) ? "hit" : "quiet",
      written: isSaid(rule) ? findWritten(rule.origin, subject, rule.name) : undefined,
    }),
  );
  const decided = step.area === "" ? "the whole mount" : `/${step.area}`;
  return { name: "rules", decided, why: why || `${said} set, ${rows.length - said} by default`, rows };
}

interface FileContext {
  /** What answers, in words. */
  readonly named: string;
  readonly rules: readonly RuleInForce[];
  readonly subject: Subject;
}

// Which rules had a say, each with the line it is written in; and that of an old address.
function tellDeciders(answer: Answer, rules: readonly RuleInForce[], subject: Subject): StageRow[] {
  const names = listDecidingRules(answer);
  const rows = rules
    .filter(({ name }) => names.includes(name))
    .map(
      ({ name, value, origin }): StageRow => ({
        cells: [`rule ${name}`, value, origin],
        written: findWritten(origin, subject, name),
      }),
    );
  const { reason } = answer;
  if (reason.code !== "moved" && reason.code !== "gone") return rows;
  const label = reason.subject ?? "";
  return [...rows, { cells: ["rule", label, describeReason(reason)], written: findWritten(label, subject) }];
}

function tellFile(tried: Step<"candidate">[], answer: Answer, { named, rules, subject }: FileContext): Told {
  const rows: StageRow[] = tried
    .filter(({ role }) => role !== "variant" && role !== "prebuilt coding")
    .map(({ role, path, found, reason, diagnosis }): StageRow => {
      const what =
        found === "file" ? "a file" : found === "directory" ? "a directory" : describeReason(reason!);
      const told = diagnosis === undefined ? what : `${what}: ${diagnosis}`;
      return {
        cells: [role, path === "" ? "." : path, told],
        tone: found === "absent" || found === "error" ? "miss" : "hit",
      };
    });
  const { reason } = answer;
  rows.push(...tellDeciders(answer, rules, subject));
  const why = reason.code === "variant" ? "the file of that name" : describeReason(reason);
  return { name: "file", decided: answer.kind === "pass" ? "passed on" : named, why, rows };
}

function tellForm(variants: Step<"variant">[], codings: Step<"representation">[], answer: Answer): Told {
  const type = answer.kind === "pass" ? undefined : answer.fields.get("content-type");
  const rows: StageRow[] = [
    ...variants.map(
      ({ field, weights, chosen }): StageRow => ({ cells: [`by ${field}`, chosen, weights.join(", ")] }),
    ),
    ...codings.map(({ coding = "none", because }): StageRow => ({ cells: ["coding", coding, because] })),
  ];
  if (rows.length === 0) return { name: "form", decided: "—", why: "no file to choose a form of", rows };
  const coding = codings[0]?.coding;
  const decided = [type?.split(";")[0], coding].filter((one) => one !== undefined).join(", ");
  return { name: "form", decided: decided || "as it is", why: codings[0]?.because ?? "", rows };
}

function tellConditions(steps: Step<"precondition">[], answer: Answer): Told {
  const rows = steps.map(({ field, outcome }): StageRow => ({ cells: [field, outcome] }));
  const decided = steps.length === 0 ? "none" : (steps.at(-1)?.outcome ?? "");
  const why =
    findDecidingStage(answer) === "conditions" ? describeReason(answer.reason) : "what the client has";
  return { name: "conditions", decided, why: steps.length === 0 ? "the request has none" : why, rows };
}

function tellRange(steps: Step<"range">[], answer: Answer): Told {
  const rows = steps.map(({ field, outcome }): StageRow => ({ cells: [field, outcome] }));
  const why = findDecidingStage(answer) === "range" ? describeReason(answer.reason) : "the whole is sent";
  return {
    name: "range",
    decided: steps[0]?.outcome ?? "the whole",
    why: steps.length === 0 ? "no part is asked for" : why,
    rows,
  };
}
