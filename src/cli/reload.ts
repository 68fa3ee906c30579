import { unwatchFile, watchFile } from "node:fs";
import { resolve } from "node:path";
import type { ReloadableSite } from "../site/reloadable.js";

/** How often the configuration file's time is looked at, in milliseconds. */
const INTERVAL_MS = 300;

/**
 * Opens a site again when its configuration file changes, and on SIGHUP. What cannot be opened changes nothing: the site before
 * stays. `tell` is told of either, in words, and whether the site is a new one. Gives what ends it.
 */
export function reloadOnChange(
  site: ReloadableSite,
  file: string | undefined,
  tell: (text: string, isNew: boolean) => void,
): () => void {
  let turn = 0;
  const reload = async (texts: { readonly done: string; readonly refused: string }): Promise<void> => {
    const mine = ++turn;
    try {
      await site.reload();
      // A later change overtakes this one.
      if (mine === turn) tell(texts.done, true);
    } catch (error) {
      if (mine === turn) tell(`${texts.refused}\n${(error as Error).message}`, false);
    }
  };
  const onSignal = (): void =>
    void reload({
      done: "SIGHUP: the site was opened again; the new one is in use.",
      refused: "SIGHUP: the site cannot be opened again; the old one stays in use.",
    });
  process.on("SIGHUP", onSignal);
  const full = file === undefined ? undefined : resolve(file);
  if (full !== undefined)
    watchFile(full, { interval: INTERVAL_MS, persistent: false }, () => {
      void reload({
        done: `${file} has changed: the new configuration is in use.`,
        refused: `${file} has changed and cannot be used; the old configuration stays in use.`,
      });
    });
  return () => {
    process.off("SIGHUP", onSignal);
    if (full !== undefined) unwatchFile(full);
  };
}
