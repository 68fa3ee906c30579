import { type Stats, statSync } from "node:fs";
import { readFile, realpath } from "node:fs/promises";
import { dirname, join } from "node:path";
import { SiteError } from "../config/site-error.js";
import { writeCommand } from "../core/text/command.js";
import type { SurveyContext, SurveyedFolder } from "./survey-context.js";

/** Who will serve: a user with the groups that it is in. */
export interface ServingUser {
  readonly name: string;
  readonly uid: number;
  readonly gids: ReadonlySet<number>;
}

/** Finds a user of this machine by name or number (passwd(5), group(5)). Throws a SiteError if it does not exist. */
export async function findUser(asked: string): Promise<ServingUser> {
  const [users, groups] = await Promise.all(["/etc/passwd", "/etc/group"].map(readTable));
  const user = users!.find(([name, , uid]) => name === asked || uid === asked);
  if (user === undefined) {
    if (/^\d+$/.test(asked)) return { name: `uid ${asked}`, uid: Number(asked), gids: new Set() };
    throw new SiteError([
      `--as-user: found ${JSON.stringify(asked)}, but this machine has no such user; write a name from /etc/passwd, or a number.`,
    ]);
  }
  const [name, , uid, gid] = user;
  const own = groups!
    .filter(([, , , members = ""]) => members.split(",").includes(name!))
    .map(([, , id]) => Number(id));
  return { name: name!, uid: Number(uid), gids: new Set([Number(gid), ...own]) };
}

async function readTable(path: string): Promise<string[][]> {
  const text = await readFile(path, "utf8").catch(() => "");
  return text.split("\n").map((line) => line.split(":"));
}

/** Reports what a user may not read or enter, by the mode bits (POSIX file access permissions). */
export async function checkPermissions(
  context: SurveyContext,
  root: string,
  folder: SurveyedFolder,
  user: ServingUser,
): Promise<void> {
  if (user.uid === 0) return;
  const { mount, path, files } = folder;
  if (path === "") await checkWayTo(context, root, folder, user);
  const own = join(root, path);
  reportUnlessAllowed(context, { mount, path }, { full: own, user, wanted: 0o5, verb: "enter" });
  for (const file of files)
    reportUnlessAllowed(context, file, { full: join(root, file.path), user, wanted: 0o4, verb: "read" });
}

async function checkWayTo(
  context: SurveyContext,
  root: string,
  { mount }: SurveyedFolder,
  user: ServingUser,
): Promise<void> {
  for (let at = dirname(await realpath(root)); ; at = dirname(at)) {
    reportUnlessAllowed(context, { mount, path: "" }, { full: at, user, wanted: 0o1, verb: "enter" });
    if (at === dirname(at)) return;
  }
}

interface Asked {
  readonly full: string;
  readonly user: ServingUser;
  readonly wanted: number;
  readonly verb: string;
}

function reportUnlessAllowed(
  context: SurveyContext,
  place: Parameters<SurveyContext["report"]>[1],
  { full, user, wanted, verb }: Asked,
): void {
  const stats = statSync(full, { throwIfNoEntry: false });
  if (stats === undefined || may(stats, user, wanted)) return;
  const mode = (stats.mode & 0o777).toString(8);
  const right = verb === "read" ? "r" : "rx";
  context.report(
    "not-readable",
    place,
    `${user.name} may not ${verb} ${full} (mode ${mode}, owner ${stats.uid}:${stats.gid}): visitors get 403.`,
    writeCommand(full, (path) => `chmod o+${right} ${path}`, `Give others the right to ${verb} it.`),
  );
}

function may({ mode, uid, gid }: Stats, user: ServingUser, wanted: number): boolean {
  const shift = uid === user.uid ? 6 : user.gids.has(gid) ? 3 : 0;
  return ((mode >> shift) & wanted) === wanted;
}
