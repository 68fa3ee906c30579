import { EXPOSURES, type Exposure, findExposure, findFolderExposure } from "../config/exposures.js";
import { formatPath } from "../core/request/target.js";
import { judgeNames } from "../core/resolve/walk.js";
import type { Mount } from "../core/rules/mount.js";
import { foldName } from "../core/text/fold-name.js";
import { joinPath } from "../core/text/path.js";

/** So deep is looked, from the mount's folder. */
const LEVELS = 2;
/** A look stops after this many names or milliseconds: startup waits for it. */
const NAMES_AT_MOST = 2000;
const MS_AT_MOST = 50;

/**
 * What a quick look at the top of a mount finds that should not be reachable, the severe alone: a sentence for each kind. Names
 * are looked at, and no file is opened. `epistyle survey` looks at all of it.
 */
export async function glanceAt(
  mount: Mount,
  {
    clock = () => performance.now(),
    meant = [],
  }: {
    readonly clock?: () => number;
    /** True for what somebody said is meant to be reached. */
    readonly meant?: readonly ((path: string) => boolean)[];
  } = {},
): Promise<string[]> {
  const until = clock() + MS_AT_MOST;
  const found = new Map<Exposure, string[]>();
  const atTop: string[] = [];
  let waiting = [""];
  let seen = 0;
  for (let level = 0; level < LEVELS; level++) {
    const next: string[] = [];
    for (const folder of waiting) {
      if (seen > NAMES_AT_MOST || clock() > until) break;
      const names = await judgeNames(mount, folder, { asks: "nothing", atMost: NAMES_AT_MOST });
      for (const { path, kind, verdict } of names ?? []) {
        seen++;
        if (verdict === "withheld" || meant.some((matches) => matches(foldName(path)))) continue;
        const isFolder = kind === "directory";
        if (level === 0) atTop.push(path);
        const exposure = isFolder ? findFolderExposure(path) : findExposure(path);
        if (exposure?.severity === "severe" && !exposure.byContent && exposure.unless === undefined)
          found.set(exposure, [...(found.get(exposure) ?? []), path]);
        else if (isFolder) next.push(path);
      }
    }
    waiting = next;
  }
  const told = [...found].map(([{ what }, paths]) => tell(mount, what, paths));
  return isProject(atTop) ? [tellProject(mount), ...told] : told;
}

const PROJECT_FILE = EXPOSURES.find(({ code }) => code === "project-file")!.names!;

// A project file alone may be meant; one beside the program is a whole project.
function isProject(names: readonly string[]): boolean {
  const lower = names.map((name) => name.toLowerCase());
  return (
    lower.some((name) => PROJECT_FILE.test(name) && !/\.config\.js$/.test(name)) &&
    lower.some((name) => /^(?:src|node_modules|vendor)$|^(?:server|app|main|index)\.[cm]?[jt]s$/.test(name))
  );
}

function tell({ at, source }: Mount, what: string, paths: readonly string[]): string {
  const [first] = paths;
  const more = paths.length === 1 ? "" : `, and ${paths.length - 1} more,`;
  return `The mount at /${at}: everybody can get ${what} of ${source.name}: /${formatPath(joinPath(at, first!))}${more} is reachable. Write withheld: [${JSON.stringify(first)}], or remove it; epistyle survey finds the rest.`;
}

function tellProject({ at, source }: Mount): string {
  return `The mount at /${at}: ${source.name} is a whole project, so everybody can get its source and its dependencies. Serve the output folder of its build; epistyle survey says more.`;
}
