import type { Asker, Reply } from "./ask.js";
import { compareReply, type Difference } from "./compare.js";
import type { Case } from "./format.js";

/** What came of one case. */
export type CaseResult = { readonly case: Case; readonly milliseconds: number } & (
  | { readonly outcome: "passed"; readonly reply: Reply }
  | { readonly outcome: "failed"; readonly reply: Reply; readonly differences: readonly Difference[] }
  | { readonly outcome: "unanswered"; readonly because: string }
);

/** Runs cases one after the other. Never rejects: a case without an answer has failed, and says so. */
export async function runCases(cases: readonly Case[], asker: Asker): Promise<CaseResult[]> {
  const results: CaseResult[] = [];
  for (const one of cases) results.push(await runCase(one, asker));
  return results;
}

async function runCase(one: Case, asker: Asker): Promise<CaseResult> {
  const started = performance.now();
  try {
    const reply = await asker.ask(one);
    const milliseconds = performance.now() - started;
    const differences = compareReply(one.expect, reply);
    return differences.length === 0
      ? { case: one, milliseconds, outcome: "passed", reply }
      : { case: one, milliseconds, outcome: "failed", reply, differences };
  } catch (error) {
    const milliseconds = performance.now() - started;
    return { case: one, milliseconds, outcome: "unanswered", because: (error as Error).message };
  }
}
