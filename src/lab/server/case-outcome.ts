import type { CaseResult } from "../../testing/run.js";
import type { CaseOutcome, Position } from "../shapes.js";

/** What came of a case, as the page shows it: the exchange that went wrong, or the first one. */
export function toCaseOutcome({ case: one, outcome, exchanges, because }: CaseResult): CaseOutcome {
  const wrong = exchanges.find(
    (exchange) => exchange.differences.length > 0 || exchange.because !== undefined,
  );
  const shown = wrong ?? exchanges[0];
  const { method, path, headers } = shown?.question ?? one.question;
  return {
    name: shown?.name === undefined ? one.name : `${one.name}: ${shown.name}`,
    outcome,
    question: {
      method,
      path,
      headers: Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, String(value)])),
    },
    differences: (wrong?.differences ?? []).map(({ about, expected, got }) => ({ about, expected, got })),
    because: wrong?.because ?? because ?? "",
    at: readPosition(one.position),
  };
}

// Where the case is written: file:line:column.
function readPosition(written: string | undefined): Position | undefined {
  const [, line, column] = /:(\d+):(\d+)$/.exec(written ?? "") ?? [];
  return line === undefined ? undefined : { line: Number(line), column: Number(column) };
}
