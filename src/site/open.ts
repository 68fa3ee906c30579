import type { Answer } from "../core/plan.js";
import { PrefixTree } from "../core/prefix-tree.js";
import type { SiteRequest } from "../core/request.js";
import { respond } from "../core/respond.js";
import type { CompiledSite, Mount } from "../core/rules.js";
import type { FileSource } from "../core/source.js";
import type { Trace } from "../core/trace.js";
import { compileMount, trimSlashes } from "./compile.js";
import { defineSite, type SiteDefinition } from "./define.js";
import { SiteError } from "./problems.js";
import type { MountConfig, SiteConfig } from "./schema.js";

/** An answer with the steps that led to it. */
export interface Explanation {
  readonly answer: Answer;
  readonly trace: Trace;
}

/** A site that is ready to answer. */
export interface Site {
  /** What is served where: prefix and source, in the order of the configuration. */
  readonly mounts: readonly { readonly at: string; readonly source: string }[];
  /**
   * Plans the response to a request, without a socket. Never rejects for what the request says. A plan whose body is a file
   * holds it open: carry it out with an adapter, read it with `readPlan`, or let go of it with `releasePlan`.
   */
  respond(request: SiteRequest): Promise<Answer>;
  /** Plans the response like `respond`, and records each step. */
  explain(request: SiteRequest): Promise<Explanation>;
}

/**
 * Opens a site: checks that every folder is there and can be read, and compiles the rules. Rejects with a SiteError that has
 * one sentence for each thing to fix.
 */
export async function openSite(definition: SiteDefinition | SiteConfig): Promise<Site> {
  const { config, file } = isDefinition(definition) ? definition : defineSite(definition);
  const problems: string[] = [];
  const inFile = file === undefined ? "" : `${file}: `;
  problems.push(...findClashes(config).map((text) => inFile + text));

  const list: Mount[] = [];
  for (const [index, mount] of config.mounts.entries()) {
    const opened = await openSource(mount, `mounts[${index}]`, config.base);
    if (typeof opened === "string") problems.push(inFile + opened);
    else list.push(compileMount(config, index, opened));
  }
  if (problems.length > 0) throw new SiteError(problems);

  const mounts = new PrefixTree<Mount>();
  for (const mount of list) mounts.set(mount.at, mount);
  const compiled: CompiledSite = { mounts, mountList: list, now: Date.now };
  return {
    mounts: list.map(({ at, source }) => ({ at: `/${at}`, source: source.name })),
    respond: (request) => respond(compiled, foldHeaderNames(request)),
    async explain(request) {
      const trace: Trace = [];
      return { answer: await respond(compiled, foldHeaderNames(request), trace), trace };
    },
  };
}

function isDefinition(value: SiteDefinition | SiteConfig): value is SiteDefinition {
  return typeof value === "object" && value !== null && "config" in value;
}

async function openSource(
  { folder, source, links }: MountConfig,
  where: string,
  base: SiteConfig["base"],
): Promise<FileSource | string> {
  if (source !== undefined && folder !== undefined) {
    return `${where}: found both folder and source; a mount has one of them: leave the other out.`;
  }
  if (source !== undefined) return source;
  if (folder === undefined) return `${where}: found neither folder nor source; write folder: "./public".`;
  // A browser has no folders, and never loads this module.
  const { openFolder } = await import("../sources/open-folder.js");
  return openFolder(folder, { where: `${where}.folder`, base, links: links ?? "inside" });
}

function findClashes(config: SiteConfig): string[] {
  const seen = new Map<string, number>();
  return config.mounts.flatMap((mount, index) => {
    const at = trimSlashes(mount.at ?? "/");
    const first = seen.get(at);
    seen.set(at, first ?? index);
    if (first === undefined) return [];
    return [
      `mounts[${index}].at: found "/${at}", where mounts[${first}] already is; give one of them another prefix, or serve both from one folder.`,
    ];
  });
}

// Adapters give names in lower case already; a person who writes a request by hand need not.
function foldHeaderNames(request: SiteRequest): SiteRequest {
  for (const name in request.headers) {
    if (/[A-Z]/.test(name)) {
      const folded = Object.entries(request.headers).map(([key, value]) => [key.toLowerCase(), value]);
      return { ...request, headers: Object.fromEntries(folded) };
    }
  }
  return request;
}
