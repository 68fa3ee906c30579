import type { MountConfig, SiteConfig } from "../config/config-types.js";
import { KeptAnswers } from "../core/keep/kept-answers.js";
import type { Keeping } from "../core/keep/respond-and-keep.js";
import { parseTypesText } from "../core/media-types/text-format.js";
import type { Memory } from "../core/memory/memory.js";
import type { Compressor } from "../core/represent/coding.js";
import type { FileSource } from "../core/source.js";

/** What a site takes from its platform. A browser has no folders and no compression, and loads none of the modules for them. */

/** The source of a mount, or a sentence that says what to fix. */
export async function openSource(
  { folder, source, links = "inside" }: MountConfig,
  where: string,
  base: SiteConfig["base"],
  memory: Memory,
): Promise<FileSource | string> {
  if (source !== undefined && folder !== undefined) {
    return `${where}: found both folder and source; a mount has one of them: leave the other out.`;
  }
  if (source !== undefined) return source;
  if (folder === undefined) return `${where}: found neither folder nor source; write folder: "./public".`;
  const { openFolder } = await import("../sources/open-folder.js");
  return openFolder(folder, { where: `${where}.folder`, base, links, memory });
}

/** The media types of the configuration's `typesFile`, and a sentence for each line that cannot be read. */
export async function readTypes({
  typesFile,
  base,
}: SiteConfig): Promise<{ types: Map<string, string>; problems: string[] }> {
  if (typesFile === undefined) return { types: new Map(), problems: [] };
  const { readTextFile } = await import("../sources/read-text.js");
  const file = await readTextFile(typesFile, "typesFile", base, '"text/x-bird brd bird"');
  if (!file.ok) return { types: new Map(), problems: [file.problem] };
  const { types, problems } = parseTypesText(file.text);
  const sentences = problems.map(
    ({ line, found }) =>
      `typesFile: line ${line} of ${typesFile} begins with "${found}"; a line begins with a media type: write it as "text/x-bird brd".`,
  );
  return { types, problems: sentences };
}

/** Compression is the platform's: where this is not Node, files are sent as they are or as they were prebuilt. */
export async function openCompressor(memory: Memory): Promise<Compressor | undefined> {
  const { process } = globalThis as { process?: { versions?: { node?: string } } };
  if (process?.versions?.node === undefined) return undefined;
  const { MADE_CODINGS, makeCompressor } = await import("../sources/compressor.js");
  return makeCompressor(memory.open(MADE_CODINGS));
}

/** Answers are kept where a file can be looked at without waiting, and memory for their bytes is the platform's. */
export function openKeeping(memory: Memory): Keeping | undefined {
  const { Buffer } = globalThis as { Buffer?: { allocUnsafeSlow(length: number): Uint8Array } };
  if (Buffer === undefined) return undefined;
  const kept = new KeptAnswers(() => performance.now());
  memory.count(kept);
  return { kept, allocate: (length) => Buffer.allocUnsafeSlow(length) };
}

/** Tells the developer of something that is probably not meant, where the platform has a way to. */
export function emitWarning(text: string): void {
  const { process } = globalThis as { process?: { emitWarning?: (text: string, type: string) => void } };
  process?.emitWarning?.(text, "SiteWarning");
}

/** Resolves after the given milliseconds, without keeping the process alive. */
export function later(milliseconds: number): Promise<void> {
  return new Promise((resolve) => {
    const timer = setTimeout(resolve, milliseconds) as unknown as { unref?: () => void };
    timer.unref?.();
  });
}
