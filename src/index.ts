export { readPlan } from "./adapters/in-process.js";
export type { AreaConfig, MountConfig, SiteConfig } from "./config/config-types.js";
export { defineSite, type SiteDefinition } from "./config/define.js";
export { SiteError } from "./config/site-error.js";
export type { Answer, BodyPart, BodyPlan, Pass, ResponsePlan } from "./core/answer/plan.js";
export { releasePlan } from "./core/answer/plan.js";
export type { Reason, ReasonCode } from "./core/explain/reason.js";
export { describeReason } from "./core/explain/reason.js";
export type { Trace, TraceStep } from "./core/explain/trace.js";
export type { FieldLine, Fields } from "./core/fields/fields.js";
export type { Memory, MemoryMetric } from "./core/memory/memory.js";
export type { RequestHeaders, SiteRequest } from "./core/request/request.js";
export type { Listing, ListingEntry, ListingRenderer } from "./core/rules/listing.js";
export type {
  EntryKind,
  EntryMetadata,
  Failed,
  FileMetadata,
  FileSource,
  Found,
  MissingCause,
  OpenedDirectory,
  OpenedFile,
  SourceEntry,
} from "./core/source.js";
export { openSite } from "./site/open.js";
export { openReloadable, type ReloadableSite } from "./site/reloadable.js";
export type { ServedEntry } from "./site/served-files.js";
export type {
  ExplainOptions,
  Explanation,
  OpenOptions,
  Responder,
  Site,
  SiteFile,
  SiteFileOptions,
  SiteMount,
} from "./site/site.js";
export { type MemoryFile, type MemoryTree, memorySource } from "./sources/memory.js";
