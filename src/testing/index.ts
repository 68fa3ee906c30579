export type {
  Asker,
  AskOptions,
  FieldLine,
  FieldsToSend,
  Inside,
  Message,
  Question,
  Reply,
  Wire,
} from "./ask/ask.js";
export { askSite } from "./ask/in-process.js";
export { askServer, type ServerOptions } from "./ask/server.js";
export type { Case } from "./case.js";
export type { Check, Difference, Seen } from "./checks/check.js";
export { expandCases, type ListServed } from "./format/expand.js";
export type { Expectation, ExpectationsFile } from "./format/expectation-types.js";
export { type Expectations, type LoadOptions, loadExpectations } from "./format/load.js";
export { assertMeets, findUnmet } from "./meet.js";
export { PACK_NAMES, type PackName } from "./packs/names.js";
export { type PackOptions, runPacks } from "./packs/run-packs.js";
export {
  type Answered,
  type MountAndBase,
  openProbe,
  type Probe,
  probeServer,
} from "./probe.js";
export { type CaseResult, type Exchange, type ReplySummary, type RunOptions, runCases } from "./run.js";
export { type ExpectationsOptions, runExpectations } from "./run-expectations.js";
export { makeTemporaryTree, type TemporaryTree, type Tree } from "./tree.js";
