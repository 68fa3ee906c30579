import type { SiteRequest } from "../../core/request/request.js";
import type { Site } from "../../site/site.js";
import { AUDIENCES } from "../engine/audiences.js";

/** One thing that is asked of both sites. */
export interface ChangeQuestion {
  readonly request: SiteRequest;
  /** `/guide/`, or with who asks: "/guide/ (another origin)". */
  readonly label: string;
  readonly address: string;
}

/** A name that no site has. */
const NO_SUCH_NAME = "no-such-name-4f1c";
/** So many addresses are asked about at most. */
const ADDRESSES_AT_MOST = 100_000;
/** Who else asks for one file of each kind in each area. */
const ALSO = ["other", "json", "plain", "player"] as const;

/**
 * What is asked to find out what a change of configuration does: every address of either site as a browser asks for it, one of each kind as
 * others do, and addresses of nothing: below each folder, without a folder's slash, without a document's extension, and old ones.
 */
export async function listQuestions(here: Site, there: Site): Promise<ChangeQuestion[]> {
  const types = new Map<string, string | undefined>();
  for (const site of [here, there])
    for await (const { path, mediaType } of site.files()) {
      if (types.size >= ADDRESSES_AT_MOST) break;
      types.set(path, mediaType);
    }
  const questions: ChangeQuestion[] = [];
  const kinds = new Set<string>();
  const ask = (target: string, as: string, who = ""): void => {
    const { headers } = AUDIENCES[as]!;
    const label = who === "" ? target : `${target} (${who})`;
    questions.push({ request: { method: "GET", target, headers }, label, address: target });
  };
  for (const [path, type] of types) {
    ask(path, askerOf(path, type));
    const kind = `${path.slice(0, path.lastIndexOf("/"))} ${type}`;
    if (!kinds.has(kind)) {
      kinds.add(kind);
      for (const as of ALSO) ask(path, as, AUDIENCES[as]!.label.replace(/^an? /, ""));
    }
    if (path.endsWith("/")) {
      if (path !== "/" && !types.has(path.slice(0, -1))) ask(path.slice(0, -1), "navigation");
      ask(`${path}${NO_SUCH_NAME}`, "navigation");
      ask(`${path}${NO_SUCH_NAME}.js`, "script");
    } else if (/\.html?$/.test(path)) {
      const short = path.replace(/\.html?$/, "");
      if (!types.has(short)) ask(short, "navigation");
    }
  }
  for (const { from } of [...here.moved, ...there.moved]) {
    ask(from, "navigation");
    if (from.endsWith("/")) ask(`${from}${NO_SUCH_NAME}`, "navigation");
  }
  const byLabel = new Map(questions.map((question) => [question.label, question]));
  return [...byLabel.values()];
}

function askerOf(path: string, type: string | undefined): string {
  if (path.endsWith("/") || type === undefined || type.startsWith("text/html")) return "navigation";
  return type.startsWith("image/") ? "picture" : "script";
}

/** An address of nothing, as people read it. */
export function nameAddress(label: string): string {
  return label.replace(NO_SUCH_NAME, "…");
}
