export { type Asker, askSite, type Question, type Reply } from "./ask.js";
export { askServer } from "./ask-server.js";
export { compareReply, type Difference } from "./compare.js";
export type { Case, Expectation, ExpectationsFile } from "./format.js";
export { type Expectations, loadExpectations } from "./load.js";
export { type CaseResult, runCases } from "./run.js";
