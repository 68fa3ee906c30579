import { type Command, InvalidArgumentError } from "commander";
import { openTerminal, printHeading, type Terminal } from "../adapters/log/terminal.js";
import { parseDuration } from "../config/durations.js";
import { SiteError } from "../config/site-error.js";
import { countOf, formatSize } from "../core/text/size.js";
import type { Release, Removal } from "../site/store/releases.js";
import { openProgress } from "./progress.js";
import { STORE_ENVIRONMENT, STORE_HELP } from "./publish.js";

interface ReleasesOptions {
  readonly store: string;
  readonly to?: number;
  readonly keep?: number;
  readonly within?: number;
  readonly remove?: true;
  readonly json?: true;
}

export function addReleases(program: Command): void {
  program
    .command("releases")
    .summary("list the releases of a store, go back to one, remove old ones")
    .description(
      "Lists the releases of a store. With --to another one becomes present; --keep and --within remove older ones.",
    )
    .requiredOption("--store <PLACE>", STORE_HELP)
    .option("--to <N>", "make this release present", parseNumber)
    .option("--keep <N>", "keep this many of the newest, and the present one", parseNumber)
    .option("--within <TIME>", "keep those that were present within this time, such as 30d", parseWithin)
    .option("--remove", "remove the others; without it, they are only listed")
    .option("--json", "print the list as JSON")
    .addHelpText(
      "after",
      `
Examples:
  epistyle releases --store /srv/larkholm
  epistyle releases --store /srv/larkholm --to 41           go back to release 41
  epistyle releases --store /srv/larkholm --keep 5          say what would be removed
  epistyle releases --store /srv/larkholm --keep 5 --remove

${STORE_ENVIRONMENT}`,
    )
    .action(async (options: ReleasesOptions) => {
      const terminal = openTerminal(process.stdout);
      const { to, keep, within, remove } = options;
      const removes = keep !== undefined || within !== undefined;
      if (to !== undefined && removes)
        throw new SiteError(["--to: found it with --keep or --within; do one after the other."]);
      if (remove && !removes)
        throw new SiteError([
          "--remove: found neither --keep nor --within; write what stays, such as --keep 5.",
        ]);
      if (to !== undefined) await switchTo(terminal, options.store, to);
      else if (removes) await removeOld(terminal, options);
      else await list(terminal, options);
    });
}

async function list(terminal: Terminal, { store, json }: ReleasesOptions): Promise<void> {
  const { listReleases } = await import("../site/store/releases.js");
  const releases = await listReleases(store);
  if (json) {
    terminal.print(JSON.stringify(releases, undefined, 2));
    return;
  }
  printHeading(terminal, `epistyle releases: ${store}`);
  if (releases.length === 0)
    terminal.print("Nothing was published there yet; write epistyle publish FOLDER with this store.");
  printReleases(terminal, releases);
}

function printReleases(terminal: Terminal, releases: readonly Release[]): void {
  const { colors } = terminal;
  const width = Math.max(0, ...releases.map(({ number }) => String(number).length));
  for (const { number, published, files, bytes, isPresent } of releases) {
    const line = `${String(number).padStart(width)}  ${sayTime(published)}  ${countOf(files).padStart(14)}  ${formatSize(bytes).padStart(9)}`;
    terminal.print(isPresent ? `${colors.green(line)}  ${colors.green("present")}` : line);
  }
}

async function switchTo(terminal: Terminal, store: string, to: number): Promise<void> {
  const { switchRelease } = await import("../site/store/releases.js");
  const progress = openProgress(process.stderr);
  const before = await switchRelease(store, to, {
    onWaiting: (text) => progress.tell(text),
    onAnnounced: () => progress.say(`Release ${to} is announced to the servers …`),
  }).finally(() => progress.end());
  terminal.print(
    before === to
      ? `Release ${to} is present already.`
      : `Release ${to} is present; before it was ${before}.`,
  );
}

async function removeOld(
  terminal: Terminal,
  { store, keep, within, remove }: ReleasesOptions,
): Promise<void> {
  const { planRemoval, removeReleases } = await import("../site/store/releases.js");
  const wanted = { keep, withinMs: within };
  const progress = openProgress(process.stderr);
  const removal: Removal = remove
    ? await removeReleases(store, wanted, { onWaiting: (text) => progress.tell(text) }).finally(() =>
        progress.end(),
      )
    : await planRemoval(store, wanted);
  const { releases, files, bytes } = removal;
  if (releases.length === 0 && files === 0) {
    terminal.print("Nothing to remove: every release is kept, and every file belongs to one.");
    return;
  }
  printReleases(terminal, releases);
  const what = `${countOf(releases.length, "release")} and ${countOf(files)} that no other one has, ${formatSize(bytes)}`;
  terminal.print(remove ? `Removed: ${what}.` : `Would remove ${what}. Add --remove to do it.`);
}

/** In UTC, to the second: releases of a day differ by it. */
const sayTime = (iso: string): string => `${iso.slice(0, 10)} ${iso.slice(11, 19)} UTC`;

function parseNumber(text: string): number {
  if (!/^[1-9]\d{0,8}$/.test(text)) throw new InvalidArgumentError("Write a whole number from 1 up.");
  return Number(text);
}

function parseWithin(text: string): number {
  const seconds = parseDuration(text);
  if (seconds === undefined)
    throw new InvalidArgumentError("Write a number with its unit, such as 30d or 12h.");
  return seconds * 1000;
}
