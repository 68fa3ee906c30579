import type { Answer } from "../../core/answer/plan.js";
import { describeReason, type Reason } from "../../core/explain/reason.js";
import type { CandidateRole, RuleInForce, TraceStep } from "../../core/explain/trace.js";
import type { Explanation } from "../../site/site.js";
import { type DecidingStage, findDecidingStage, listDecidingRules } from "./decided.js";
import { describeAnswer, describeStatus } from "./outcome.js";

/** A fact of a stage: something that was tried, weighed or is in force, in columns. */
export interface StageRow {
  readonly cells: readonly string[];
  /** "quiet" for what holds by default. */
  readonly tone?: "quiet" | "hit" | "miss";
  /** What the row is about, where a stage has rows of several kinds. */
  readonly about?: "variant" | "coding" | "rule";
  /** What a name was tried as. */
  readonly role?: CandidateRole;
  /** The rule had a say in the answer. */
  readonly decides?: boolean;
  /** The key of the configuration that the row comes from. */
  readonly rule?: string | undefined;
}

/** One stage on the way from target to answer: what it decided in a few words, why, and the facts. */
export interface Stage {
  readonly name: Exclude<DecidingStage, "method"> | "rules" | "answer";
  readonly decided: string;
  readonly why: string;
  readonly state: "passed" | "decided" | "not reached";
  readonly rows: readonly StageRow[];
}

type Step<Name> = Extract<TraceStep, { stage: Name }>;
type Told = Omit<Stage, "state">;

/** The stages of an explanation, as data. One of them decided the answer; what lies behind it was not reached. */
export function toStages(explanation: Explanation): Stage[] {
  const { trace, answer } = explanation;
  const steps = <Name extends TraceStep["stage"]>(name: Name): Step<Name>[] =>
    trace.filter((step): step is Step<Name> => step.stage === name);
  const decider = findDecidingStage(answer);
  const rules = steps("rules")[0];
  const stages = [
    tellTarget(steps("target")),
    tellMount(steps("mount")),
    tellRules(rules, decider === "method" ? answer.reason : undefined, listRules(explanation)),
    tellFile(steps("candidate"), rules?.rules ?? [], explanation),
    tellForm(steps("variant"), steps("representation"), answer),
    tellConditions(steps("precondition"), answer),
    tellRange(steps("range"), answer),
  ];
  const at = stages.findIndex(({ name }) => name === (decider === "method" ? "rules" : decider));
  const reached = stages.map(
    (stage, index): Stage => ({
      ...stage,
      state: index === at ? "decided" : index > at && stage.rows.length === 0 ? "not reached" : "passed",
    }),
  );
  const last = { decided: describeStatus(answer), why: explanation.why, state: "passed" as const, rows: [] };
  return [...reached, { name: "answer", ...last }];
}

// The rules that had a say in what is sent.
function listRules({ answer, trace }: Explanation): ReadonlySet<string> {
  const names = new Set(listDecidingRules(answer));
  if (trace.some((step) => step.stage === "candidate" && step.role === "error page")) names.add("errorPages");
  if (answer.kind === "response" && answer.fields.has("Content-Encoding")) names.add("codings");
  return names;
}

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
  const form = query === "" ? why : `${why}, with the query ${query}`;
  return { name: "target", decided, why, rows: [{ cells: [decided, form] }] };
}

function tellMount([step]: Step<"mount">[]): Told {
  if (step === undefined) return { name: "mount", decided: "—", why: "", rows: [] };
  if (step.at === undefined) {
    const rows: StageRow[] = [
      { cells: ["none", `the mounts are at ${step.known.join(", ")}`], tone: "miss" },
    ];
    return { name: "mount", decided: "none", why: "no mount covers this path", rows };
  }
  const { at, source, path } = step;
  const cells = [at, `from ${source}`, `path: ${path === "" ? "the folder itself" : path}`];
  return { name: "mount", decided: at, why: `files of ${source}`, rows: [{ cells, tone: "hit" }] };
}

function tellRules(
  step: Step<"rules"> | undefined,
  byMethod: Reason | undefined,
  deciding: ReadonlySet<string>,
): Told {
  const why = byMethod === undefined ? "" : describeReason(byMethod);
  if (step === undefined)
    return { name: "rules", decided: byMethod === undefined ? "—" : "method", why, rows: [] };
  const rows = step.rules.map(
    ({ name, value, origin, by, rule }): StageRow => ({
      cells: [name, value, origin],
      tone: by === "default" ? "quiet" : "hit",
      decides: deciding.has(name),
      rule,
    }),
  );
  const said = rows.filter(({ tone }) => tone === "hit").length;
  const decided = step.area === "" ? "the whole mount" : `/${step.area}`;
  return { name: "rules", decided, why: why || `${said} set, ${rows.length - said} by default`, rows };
}

function tellFile(
  tried: Step<"candidate">[],
  rules: readonly RuleInForce[],
  { answer, trace }: Explanation,
): Told {
  const rows = tried.map(({ role, path, found, reason, diagnosis }): StageRow => {
    const what =
      found === "file" ? "a file" : found === "directory" ? "a directory" : describeReason(reason!);
    const told = diagnosis === undefined ? what : `${what}: ${diagnosis.text}`;
    return {
      role,
      cells: [role, path === "" ? "." : path, told],
      tone: found === "absent" || found === "error" ? "miss" : "hit",
    };
  });
  rows.push(...tellDeciders(answer, rules));
  const { reason } = answer;
  const why = reason.code === "variant" ? "the file of that name" : describeReason(reason);
  return { name: "file", decided: describeAnswer(answer, trace), why, rows };
}

// Which rules had a say, each with its key; and that of an old address.
function tellDeciders(answer: Answer, rules: readonly RuleInForce[]): StageRow[] {
  const names = listDecidingRules(answer);
  const { reason } = answer;
  const own = rules
    .filter(({ name }) => names.includes(name))
    .map(
      ({ name, value, origin, rule }): StageRow => ({ about: "rule", cells: [name, value, origin], rule }),
    );
  return reason.rule === undefined
    ? own
    : [...own, { about: "rule", cells: [reason.rule, describeReason(reason)], rule: reason.rule }];
}

function tellForm(variants: Step<"variant">[], codings: Step<"representation">[], answer: Answer): Told {
  const type = answer.kind === "pass" ? undefined : answer.fields.get("content-type");
  const rows: StageRow[] = [
    ...variants.map(
      ({ field, weights, chosen }): StageRow => ({
        about: "variant",
        cells: [chosen, `by ${field}: ${weights.join(", ")}`],
      }),
    ),
    ...codings.map(
      ({ coding = "none", because }): StageRow => ({ about: "coding", cells: [coding, because] }),
    ),
  ];
  if (rows.length === 0) return { name: "form", decided: "—", why: "no file to represent", rows };
  const coding = codings[0]?.coding;
  const decided = [type?.split(";")[0], coding].filter((one) => one !== undefined).join(", ");
  return { name: "form", decided: decided || "as it is", why: codings[0]?.because ?? "", rows };
}

function tellConditions(steps: Step<"precondition">[], answer: Answer): Told {
  const rows = steps.map(({ field, outcome }): StageRow => ({ cells: [field, outcome] }));
  const why =
    findDecidingStage(answer) === "conditions" ? describeReason(answer.reason) : "what the client has";
  return {
    name: "conditions",
    decided: steps.at(-1)?.outcome ?? "none",
    why: steps.length === 0 ? "the request has none" : why,
    rows,
  };
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
