export type { Listing, ListingEntry } from "./core/listing/collect.js";
export type { EntryKind, EntryMetadata, SourceEntry } from "./core/listing/entry.js";
export type { Answer, BodyPart, BodyPlan, Pass, ResponsePlan } from "./core/plan.js";
export { releasePlan } from "./core/plan.js";
export type { Reason, ReasonCode } from "./core/reason.js";
export { describeReason } from "./core/reason.js";
export type { RequestHeaders, SiteRequest } from "./core/request.js";
export type { ListingRenderer } from "./core/rules.js";
export type { FileMetadata, FileSource, Found, MissingCause, OpenedFile } from "./core/source.js";
export type { Trace, TraceStep } from "./core/trace.js";
export { defineSite, type SiteDefinition } from "./site/define.js";
export {
  type ExplainOptions,
  type Explanation,
  openSite,
  type Site,
  type SiteFile,
  type SiteFileOptions,
  type SiteMount,
} from "./site/open.js";
export { SiteError } from "./site/problems.js";
export type { AreaConfig, MountConfig, SiteConfig } from "./site/schema.js";
export type { ServedEntry } from "./site/served-files.js";
export { type MemoryFile, type MemoryTree, memorySource } from "./sources/memory.js";
