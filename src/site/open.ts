import { compileMount, trimSlashes } from "../config/compile.js";
import { defineSite, type SiteDefinition } from "../config/define.js";
import { SiteError } from "../config/problems.js";
import type { MountConfig, SiteConfig } from "../config/schema.js";
import { type Answer, releasePlan } from "../core/answer/plan.js";
import { describeReason } from "../core/explain/reason.js";
import type { Trace } from "../core/explain/trace.js";
import { traceFields } from "../core/explain/trace-fields.js";
import { formatAttachment } from "../core/fields/disposition.js";
import { parseTypesText } from "../core/media-types/text-format.js";
import type { Compressor } from "../core/represent/coding.js";
import type { SiteRequest } from "../core/request/request.js";
import { formatPath } from "../core/request/target.js";
import { respond, respondWithFile } from "../core/respond.js";
import { PrefixTree } from "../core/rules/prefix-tree.js";
import type { CompiledSite, Mount } from "../core/rules/rules.js";
import type { FileSource } from "../core/source.js";
import { findHints, warnUnlisted } from "./hints.js";
import { inspectLifetimes } from "./lifetimes.js";
import { type ServedEntry, walkServed } from "./served-files.js";
import { inspectRules } from "./warnings.js";

/** An answer with the steps that led to it. */
export interface Explanation {
  readonly answer: Answer;
  readonly trace: Trace;
  /** Why the answer is what it is, in one sentence. */
  readonly why: string;
  /** For an error: its likeliest causes, each with what to do about it, the likeliest first. */
  readonly hints: readonly string[];
}

export interface SiteFileOptions {
  /** Makes the browser save the file: under this name, or with `true` under its own (RFC 6266). */
  readonly saveAs?: string | true;
}

/** One file of a site, as the answer to any request. */
export interface SiteFile {
  /** Plans the response with this file, whatever the request's target says; otherwise like `Site.respond`. */
  respond(request: SiteRequest): Promise<Answer>;
}

/** A mount as the site tells of it: prefix, source, and the prefixes under which an app shell answers deep links. */
export interface SiteMount {
  readonly at: string;
  readonly source: string;
  /** Each from the site's root, ending with a slash. */
  readonly appShells: readonly string[];
}

export interface ExplainOptions {
  /** Leaves the answer's body open, for `readPlan`; otherwise it is let go of. */
  readonly keepBody?: boolean;
}

/** A site that is ready to answer. */
export interface Site {
  /** What is served where, in the order of the configuration. */
  readonly mounts: readonly SiteMount[];
  /** What start-up found that is probably not meant: a sentence for each. */
  readonly warnings: readonly string[];
  /**
   * Plans the response to a request, without a socket. Never rejects for what the request says. A plan whose body is a file
   * holds it open: carry it out with an adapter, read it with `readPlan`, or let go of it with `releasePlan`.
   */
  respond(request: SiteRequest): Promise<Answer>;
  /**
   * One file of the site, for routes of the application's own. The path is the file's own address, not escaped, such as
   * "/reports/Season report 2026.pdf". Throws a RangeError for a path that no file of the site can have.
   */
  file(path: string, options?: SiteFileOptions): SiteFile;
  /** Plans the response like `respond`, and records each step. */
  explain(request: SiteRequest, options?: ExplainOptions): Promise<Explanation>;
  /** Every file and directory that is offered, withheld ones left out. Nothing is opened. */
  files(): AsyncIterable<ServedEntry>;
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

  const types = await readTypes(config);
  problems.push(...types.problems.map((text) => inFile + text));
  const list: Mount[] = [];
  for (const [index, mount] of config.mounts.entries()) {
    const opened = await openSource(mount, `mounts[${index}]`, config.base);
    if (typeof opened === "string") problems.push(inFile + opened);
    else list.push(compileMount(config, index, opened, types.types));
  }
  if (problems.length > 0) throw new SiteError(problems);
  const { warnings, errors } = await inspectRules(config, list);
  if (errors.length > 0) throw new SiteError(errors.map((text) => inFile + text));

  for (const mount of list) warnings.push(...(await inspectLifetimes(mount)));

  const mounts = new PrefixTree<Mount>();
  for (const mount of list) mounts.set(mount.at, mount);
  const compiled: CompiledSite = {
    mounts,
    mountList: list,
    compressor: await openCompressor(),
    pause: makePause(),
    now: Date.now,
  };
  return {
    mounts: list.map(({ at, source, allRules }) => ({
      at: `/${at}`,
      source: source.name,
      appShells: listShells(at, allRules),
    })),
    warnings: warnings.map((text) => inFile + text),
    respond: (request) => respond(compiled, foldHeaderNames(request)),
    file(path, { saveAs } = {}) {
      checkFilePath(path, compiled);
      const name = saveAs === true ? path : saveAs;
      return {
        async respond(request) {
          const answer = await respondWithFile(compiled, path.slice(1), foldHeaderNames(request));
          return name === undefined ? answer : asDownload(answer, name);
        },
      };
    },
    files: () => walkServed(compiled),
    async explain(request, { keepBody = false } = {}) {
      const trace: Trace = [];
      const answer = await respond(compiled, foldHeaderNames(request), trace);
      if (!keepBody) releasePlan(answer);
      traceFields(trace, answer);
      const isError = answer.kind === "pass" || answer.status >= 400;
      const hints = isError ? await findHints(compiled, answer.reason, trace) : warnUnlisted(compiled, trace);
      return { answer, trace, why: describeReason(answer.reason), hints };
    },
  };
}

// An area that only inherits an enclosing one's shell is no application of its own.
function listShells(at: string, allRules: Mount["allRules"]): string[] {
  const encloses = (outer: string, inner: string): boolean =>
    outer !== inner && (outer === "" || inner.startsWith(`${outer}/`));
  return allRules
    .filter(
      ({ area, appShell }) =>
        appShell !== undefined &&
        !allRules.some((other) => other.appShell?.file === appShell.file && encloses(other.area, area)),
    )
    .map(({ area }) => {
      const path = formatPath([at, area].filter(Boolean).join("/"));
      return path === "" ? "/" : `/${path}/`;
    });
}

function asDownload(answer: Answer, name: string): Answer {
  if (answer.kind === "pass" || answer.file === undefined || answer.status === 304) return answer;
  const at = answer.fields.indexOf("Content-Disposition");
  const others = at < 0 ? answer.fields : answer.fields.toSpliced(at, 2);
  return { ...answer, fields: [...others, "Content-Disposition", formatAttachment(name)] };
}

function checkFilePath(path: string, site: CompiledSite): void {
  const found = `The path of a file: found ${JSON.stringify(path)}`;
  if (!path.startsWith("/"))
    throw new RangeError(`${found}; it starts at the site's root: write ${JSON.stringify(`/${path}`)}.`);
  if (path.endsWith("/") || /\/\/|\/\.{1,2}(\/|$)|[\\\0]/.test(path)) {
    throw new RangeError(
      `${found}; write the address of one file, not escaped, such as "/reports/season.pdf".`,
    );
  }
  if (site.mounts.find(path.slice(1)) === undefined) {
    const mounts = site.mountList.map(({ at }) => `/${at}`).join(", ");
    throw new RangeError(`${found}, which is under no mount; the mounts are at ${mounts}.`);
  }
}

async function readTypes({
  typesFile,
  base,
}: SiteConfig): Promise<{ types: Map<string, string>; problems: string[] }> {
  if (typesFile === undefined) return { types: new Map(), problems: [] };
  const { readTextFile } = await import("../sources/read-text.js");
  const file = await readTextFile(typesFile, "typesFile", base);
  if (!file.ok) return { types: new Map(), problems: [file.problem] };
  const { types, problems } = parseTypesText(file.text);
  const sentences = problems.map(
    ({ line, found }) =>
      `typesFile: line ${line} of ${typesFile} begins with "${found}"; a line begins with a media type: write it as "text/x-bird brd".`,
  );
  return { types, problems: sentences };
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

// Compression is the platform's: where this is not Node, files are sent as they are or as they were prebuilt.
async function openCompressor(): Promise<Compressor | undefined> {
  const { process } = globalThis as { process?: { versions?: { node?: string } } };
  if (process?.versions?.node === undefined) return undefined;
  const { makeCompressor } = await import("../sources/compressor.js");
  return makeCompressor();
}

// A timer of no length lets waiting requests go first, on every platform.
function makePause(): () => Promise<void> {
  const { setImmediate: immediate } = globalThis as { setImmediate?: (done: () => void) => void };
  return () => new Promise((resolve) => (immediate ?? setTimeout)(resolve));
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
