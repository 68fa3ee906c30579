import { watch } from "chokidar";
import { openTerminal } from "../adapters/log/terminal.js";
import { SiteError } from "../config/site-error.js";

/** Editors write a file in several steps; a run begins when nothing has changed for so long, in milliseconds. */
const QUIET_MS = 150;

/**
 * Runs, and runs again whenever a file changes that was named or that the run depends on. What cannot be run is printed, and waits for
 * the next change. Resolves on SIGINT or SIGTERM.
 */
export async function watchAndRun(
  named: readonly string[],
  run: (signal: AbortSignal) => Promise<readonly string[]>,
): Promise<void> {
  const terminal = openTerminal(process.stdout);
  const stop = new AbortController();
  const stopped = new Promise<void>((done) => {
    for (const signal of ["SIGINT", "SIGTERM"] as const)
      process.once(signal, () => {
        stop.abort();
        done();
      });
  });
  let changed: () => void = () => {};
  const watcher = watch([...named], { ignoreInitial: true, ignored: /[/\\]node_modules[/\\]/ });
  let quiet: NodeJS.Timeout | undefined;
  watcher.on("all", () => {
    clearTimeout(quiet);
    quiet = setTimeout(() => changed(), QUIET_MS);
  });
  while (!stop.signal.aborted) {
    const next = new Promise<void>((done) => {
      changed = done;
    });
    try {
      watcher.add([...(await run(stop.signal))]);
    } catch (error) {
      // With nothing to watch there is nothing to wait for.
      if (named.length === 0 || !(error instanceof SiteError)) throw error;
      terminal.print(error.message);
    }
    terminal.print(terminal.colors.dim("\nWaiting for a change. Stop with Ctrl-C.\n"));
    await Promise.race([next, stopped]);
  }
  await watcher.close();
  process.exitCode = 0;
}
