import { promisify } from "node:util";
import * as zlib from "node:zlib";
import { brotliDecompress, gunzip } from "node:zlib";
import { STALE_NS } from "../core/represent/representation.js";
import { CODING_ENDINGS } from "../core/rules/codings.js";
import { selectRules } from "../core/rules/mount.js";
import type { FileSource } from "../core/source.js";
import { writeCommand } from "../core/text/command.js";
import { formatCount } from "../core/text/size.js";
import type { SurveyContext, SurveyedFile, SurveyedFolder } from "./survey-context.js";

/** Less is no file in any of these codings, in bytes. */
const SMALLEST = 20;
/** A larger file is not decoded, in bytes; no more is decoded of one. */
const READ_AT_MOST = 32 * 1024 * 1024;
const DECODED_AT_MOST = 128 * 1024 * 1024;

const STALE_MS = Number(STALE_NS / 1_000_000n);

type Decode = (bytes: Uint8Array, options: { readonly maxOutputLength: number }) => Promise<Buffer>;

const unzip: Decode = promisify(gunzip);
// Node 22.15 has it.
const { zstdDecompress } = zlib as { zstdDecompress?: typeof gunzip };
const DECODERS: ReadonlyMap<string, Decode> = new Map<string, Decode>([
  [".gz", unzip],
  [".tgz", unzip],
  [".br", promisify(brotliDecompress)],
  ...(zstdDecompress === undefined ? [] : ([[".zst", promisify(zstdDecompress)]] as const)),
]);

/** Holds files with a coding against the files they stand for, and sees that they are whole. */
export async function checkPrebuilt(
  context: SurveyContext,
  { mount, path, files }: SurveyedFolder,
): Promise<void> {
  const byPath = new Map(files.map((file) => [file.path, file]));
  const { prebuilt } = selectRules(mount, path).codings;
  for (const file of files) {
    const ending = [...DECODERS.keys()].find((one) => file.path.endsWith(one));
    if (ending === undefined || file.sizeBytes > READ_AT_MOST || file.sizeBytes < SMALLEST) continue;
    const plain = byPath.get(file.path.slice(0, -ending.length));
    const isUsed = prebuilt.some((coding) => CODING_ENDINGS[coding] === ending);
    const bytes = await readWhole(mount.source, file.path);
    if (bytes === undefined) continue;
    const decoded = await decode(ending, bytes);
    if (decoded === "cut") reportCut(context, file);
    else if (plain !== undefined && isUsed) await compare(context, { file, plain, decoded });
  }
}

async function decode(ending: string, bytes: Uint8Array): Promise<Buffer | "cut" | undefined> {
  try {
    return await DECODERS.get(ending)!(bytes, { maxOutputLength: DECODED_AT_MOST });
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    return code === "Z_BUF_ERROR" ? "cut" : undefined;
  }
}

async function compare(
  context: SurveyContext,
  {
    file,
    plain,
    decoded,
  }: { readonly file: SurveyedFile; readonly plain: SurveyedFile; readonly decoded: Buffer | undefined },
): Promise<void> {
  const name = plain.path.slice(plain.path.lastIndexOf("/") + 1);
  const fix = writeCommand(
    context.locate(file),
    (quoted) => `rm -- ${quoted}`,
    "Make it again, or remove it.",
  );
  if (plain.modifiedMs - file.modifiedMs > STALE_MS) {
    context.report("prebuilt-older", file, `It is older than ${name}, so it is never sent.`, fix);
    return;
  }
  const bytes = plain.sizeBytes > READ_AT_MOST ? undefined : await readWhole(plain.mount.source, plain.path);
  if (bytes === undefined || decoded === undefined || decoded.equals(bytes)) return;
  context.report(
    "prebuilt-differs",
    file,
    `It is not ${name} as it is now: visitors whose browsers take it get other bytes.`,
    fix,
  );
}

function reportCut(context: SurveyContext, file: SurveyedFile): void {
  context.report(
    "cut-file",
    file,
    `Its ${formatCount(file.sizeBytes)} bytes end too early: what is packed in it is incomplete.`,
    "Copy it again from its source.",
  );
}

async function readWhole(source: FileSource, path: string): Promise<Uint8Array | undefined> {
  const found = await source.open(path);
  if (found.kind === "directory") found.directory.close();
  if (found.kind !== "file") return undefined;
  try {
    return await found.file.read(0, found.file.metadata.sizeBytes);
  } catch {
    return undefined;
  } finally {
    found.file.close();
  }
}
