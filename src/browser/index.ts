// For browsers and Service Workers: what answers, without what checks a configuration or explains an answer.
export { readPlan } from "../adapters/in-process.js";
export type { WebHandler, WebHandlerOptions } from "../adapters/web-handler.js";
export { makeWebHandler as webHandler } from "../adapters/web-handler.js";
export type { SiteConfig } from "../config/config-types.js";
export type { Answer, ResponsePlan } from "../core/answer/plan.js";
export { releasePlan } from "../core/answer/plan.js";
export { type CheckedOptions, openCheckedSite, type SitePart } from "../site/open-checked.js";
export type { Responder } from "../site/site.js";
export { type MemoryFile, type MemoryTree, memorySource } from "../sources/memory.js";
