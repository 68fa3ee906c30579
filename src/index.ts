export { defineSite, type SiteDefinition } from "./config/define.js";
export { SiteError } from "./config/problems.js";
export type { AreaConfig, MountConfig, SiteConfig } from "./config/schema.js";
export type { Answer, BodyPart, BodyPlan, Pass, ResponsePlan } from "./core/answer/plan.js";
export { releasePlan } from "./core/answer/plan.js";
export type { Reason, ReasonCode } from "./core/explain/reason.js";
export { describeReason } from "./core/explain/reason.js";
export type { Trace, TraceStep } from "./core/explain/trace.js";
export type { Listing, ListingEntry } from "./core/listing/collect.js";
export type { EntryKind, EntryMetadata, SourceEntry } from "./core/listing/entry.js";
export type { RequestHeaders, SiteRequest } from "./core/request/request.js";
export type { ListingRenderer } from "./core/rules/rules.js";
export type { FileMetadata, FileSource, Found, MissingCause, OpenedFile } from "./core/source.js";
export {
  type ExplainOptions,
  type Explanation,
  openSite,
  type Site,
  type SiteFile,
  type SiteFileOptions,
  type SiteMount,
} from "./site/open.js";
export type { ServedEntry } from "./site/served-files.js";
export { type MemoryFile, type MemoryTree, memorySource } from "./sources/memory.js";
