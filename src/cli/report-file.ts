import { mkdir, open, rm, stat } from "node:fs/promises";
import { dirname, resolve } from "node:path";
import { SiteError } from "../config/site-error.js";
import { writeWhole } from "../site/write-whole.js";

/** Makes sure that a report can be written, and removes that of the run before: should this run not end, nobody takes it for this one's. */
export async function clearReport(file: string, option: string): Promise<void> {
  try {
    await mkdir(dirname(resolve(file)), { recursive: true });
    const before = await stat(file).catch(() => undefined);
    await (await open(file, "a")).close();
    if (before?.isFile() !== false) await rm(file);
  } catch (error) {
    throw unwritable(file, option, error);
  }
}

/** Writes a report whole. */
export async function writeReport(file: string, option: string, text: string): Promise<void> {
  await writeWhole(file, text).catch((error: unknown) => {
    throw unwritable(file, option, error);
  });
}

function unwritable(file: string, option: string, error: unknown): SiteError {
  const { code } = error as NodeJS.ErrnoException;
  return new SiteError([
    `${option}: ${file} cannot be written (${code}); name a file in a folder that you can write to.`,
  ]);
}
