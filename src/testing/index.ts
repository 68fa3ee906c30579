export { type Asker, askServer, askSite, type Question, type Reply } from "./ask.js";
export { compareReply, type Difference } from "./compare.js";
export type { Case, Expectation, ExpectationsFile } from "./format.js";
export { type Expectations, loadExpectations } from "./load.js";
export { type CaseResult, runCases } from "./run.js";
