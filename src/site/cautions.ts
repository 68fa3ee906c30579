import { describePrivateName } from "../config/hiding/private-names.js";
import type { ResponsePlan } from "../core/answer/plan.js";
import type { Trace } from "../core/explain/trace.js";
import { mediaTypeOf } from "../core/fields/content-type.js";
import { decideTypeByContent, HEADER_BYTES } from "../core/media-types/content.js";
import { fieldValue, type SiteRequest } from "../core/request/request.js";
import { formatPath } from "../core/request/target.js";
import { type Mount, selectRules } from "../core/rules/mount.js";
import type { CompiledSite } from "../core/site.js";
import { sitePath } from "../core/text/path.js";
import { fits } from "../reading/contents/kinds.js";

/** Where a request points in a mount. */
interface Pointed {
  readonly mount: Mount;
  readonly path: string;
}

/**
 * For an answer that is no error: what is probably not meant all the same, each with what to do about it. Reads of the file,
 * which stays open, what it has to.
 */
export async function findCautions(
  site: CompiledSite,
  request: SiteRequest,
  answer: ResponsePlan,
  trace: Trace,
): Promise<string[]> {
  const step = trace.find((one) => one.stage === "mount");
  if (step?.stage !== "mount" || step.at === undefined) return [];
  const mount = site.mounts.values().find(({ at }) => `/${at}` === step.at)!;
  const pointed = { mount, path: step.path };
  return [
    ...cautionOfName(pointed),
    ...(await cautionOfContent(answer)),
    ...cautionOfOrigin(pointed, request, answer),
    ...(await cautionOfShell(pointed, answer)),
    ...cautionOfPolicy(trace),
  ];
}

function cautionOfPolicy(trace: Trace): string[] {
  return trace
    .filter((one) => one.stage === "protection")
    .flatMap(({ problems }) => problems.map((problem) => `The policy does not cover the page: ${problem}.`));
}

// A listing leaves it out, as if nobody should have it.
function cautionOfName({ mount, path }: Pointed): string[] {
  const notListedBy = selectRules(mount, path).notListed.by(path);
  if (notListedBy === undefined || describePrivateName(path) === undefined) return [];
  return [
    `It is left out of listings (${notListedBy}) but still sent; add it to withheld if nobody may have it.`,
  ];
}

async function cautionOfContent({ status, fields, body, file }: ResponsePlan): Promise<string[]> {
  if (status !== 200 || body.kind !== "file" || fields.has("Content-Encoding")) return [];
  const said = mediaTypeOf(fields.get("Content-Type") ?? "");
  try {
    const content = decideTypeByContent(
      await body.file.read(0, Math.min(HEADER_BYTES, body.file.metadata.sizeBytes)),
    );
    if (fits(said, content)) return [];
    return [
      `The content of ${file} is ${content}, but its name says ${said}: give the file the correct extension, or add its type to mediaTypes.`,
    ];
  } catch {
    return [];
  }
}

function cautionOfOrigin(
  { mount, path }: Pointed,
  { headers }: SiteRequest,
  { fields }: ResponsePlan,
): string[] {
  const origin = fieldValue(headers, "origin");
  if (origin === undefined || fields.has("Access-Control-Allow-Origin")) return [];
  const host = fieldValue(headers, "host");
  if (host !== undefined && origin.replace(/^https?:\/\//, "") === host) return [];
  const { crossOrigin, origins } = selectRules(mount, path);
  const state =
    crossOrigin === undefined
      ? "crossOrigin is off"
      : `crossOrigin of ${origins.crossOrigin.words} names ${[crossOrigin.allowed].flat().join(", ")}`;
  return [
    `A page of ${origin} may not read it, because ${state}; write crossOrigin: [${JSON.stringify(origin)}] if it may.`,
  ];
}

async function cautionOfShell({ mount, path }: Pointed, { reason }: ResponsePlan): Promise<string[]> {
  const shell = selectRules(mount, path).appShell;
  if (reason.code !== "app-shell" || shell === undefined) return [];
  const { adviseOnRelative, findRelativeIn } = await import("../config/choosing/relative-addresses.js");
  const addresses = await findRelativeIn(mount.source, shell.file);
  if (addresses.length === 0) return [];
  const folder = formatPath(sitePath(mount, shell.file).replace(/[^/]*$/, ""));
  return [`${shell.file} ${adviseOnRelative(addresses, `/${folder}`)}.`];
}
