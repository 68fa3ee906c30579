import { formatProblem, validate } from "../config/problems.js";
import { SiteError } from "../config/site-error.js";
import { type Difference, findDifferences, isKnown } from "./checks/check.js";
import { compileExpectation } from "./checks/expectation.js";
import { compileFurther } from "./checks/further.js";
import type { Expectation } from "./format/expectation-types.js";
import { expectation as writtenExpectation } from "./format/schema-expectation.js";
import { type Answered, explainAnswered, toSeen } from "./probe.js";
import { describeDifference, type FailureLine, formatFailure } from "./reports/failure.js";

/**
 * Compares an answer with an expectation, written as in an expectations file: every difference, none when it is met. Files that
 * it names are looked for in the working directory. Throws a SiteError for an invalid expectation.
 */
export function findUnmet(answer: Answered, expectation: Expectation): Difference[] {
  checkAnswer("findUnmet", answer);
  const result = validate(writtenExpectation, expectation);
  if (!result.ok)
    throw new SiteError(result.problems.map((problem) => `The expectation: ${formatProblem(problem)}`));
  const checks = compileExpectation(result.value, process.cwd());
  const seen = toSeen(answer);
  if (seen.reply.inside === undefined && checks.some(({ insideOnly }) => insideOnly === true))
    throw new SiteError([
      "The expectation: found answeredBy, which is only known in process, but the answer came over the network; leave it out, or use a probe of the site itself.",
    ]);
  const [hidden] = checks.filter((check) => !isKnown(check, seen));
  if (hidden !== undefined)
    throw new SiteError([
      `The expectation: found one of the ${hidden.about}, which is only known over the network, but the answer came from this process; leave it out, or use a probe of a server.`,
    ]);
  if (compileFurther(result.value).length > 0)
    throw new SiteError([
      "The expectation: found leadsTo or body.sameAs, which ask the site again; write it in an expectations file, or compare two answers of the probe.",
    ]);
  return findDifferences(checks, seen);
}

function checkAnswer(call: string, answer: unknown): void {
  const { question, status } = (answer ?? {}) as Partial<Answered>;
  if (question === undefined || status === undefined)
    throw new TypeError(
      `${call}: found no answer of a probe; write ${call}(await probe.get("/"), { status: 200 }), with await.`,
    );
}

/** Throws an Error that shows request, expected, got and how it came about, when an answer is not as expected. */
export function assertMeets(answer: Answered, expectation: Expectation): void {
  checkAnswer("assertMeets", answer);
  const differences = findUnmet(answer, expectation);
  if (differences.length === 0) return;
  const error = new Error(describeUnmet(answer, differences));
  error.name = "ExpectationError";
  Error.captureStackTrace(error, assertMeets);
  throw error;
}

/** What is told of an answer that is not as expected, as text: as the runner tells it. */
export function describeUnmet(answer: Answered, differences: readonly Difference[]): string {
  const { method, path, headers } = answer.question;
  const makeLine = (label: string, text: string, tone: FailureLine["tone"]): FailureLine => ({
    label,
    word: "",
    text,
    tone,
  });
  const blocks = explainAnswered(
    answer,
    differences.map(({ about }) => about),
  );
  return `The answer is not as expected.\n\n${formatFailure([
    makeLine("request", `${method} ${path}`, "request"),
    ...Object.entries(headers).map(([name, value]) => makeLine("", `${name}: ${value}`, "request")),
    ...differences.flatMap(describeDifference),
    ...blocks.flatMap(({ title, rows }) =>
      rows.map((row, index) => makeLine(index === 0 ? title : "", row.join("  "), "explanation")),
    ),
  ])}`;
}
