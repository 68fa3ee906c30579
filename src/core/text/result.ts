/** What a parser gives: a value, or a problem that says what is wrong. Parsers of network input never throw. */
export type Result<Value, Problem> = { ok: true; value: Value } | { ok: false; problem: Problem };

export const succeed = <Value>(value: Value): { ok: true; value: Value } => ({ ok: true, value });
export const fail = <Problem>(problem: Problem): { ok: false; problem: Problem } => ({ ok: false, problem });
