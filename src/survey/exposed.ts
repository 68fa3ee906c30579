import { EXPOSURES, type Exposure, findExposure } from "../config/exposures.js";
import { findRule } from "../core/rules/file-rules.js";
import { selectRules } from "../core/rules/mount.js";
import { addressOf, type SurveyContext, type SurveyedFile } from "./survey-context.js";
import { withholdLine } from "./walk.js";

/** What begins a program that the system runs: ELF, PE, Mach-O. */
const PROGRAMS: readonly (readonly number[])[] = [
  [0x7f, 0x45, 0x4c, 0x46],
  [0xcf, 0xfa, 0xed, 0xfe],
  [0xce, 0xfa, 0xed, 0xfe],
  [0xfe, 0xed, 0xfa, 0xcf],
];
const WINDOWS_PROGRAM = /^MZ[\s\S]{58}/;
const PRIVATE_KEY = /-----BEGIN (?:[A-Z]+ )*PRIVATE KEY-----/;
const DATABASE = "SQLite format 3\0";
const DUMP = /^(?:--[^\n]*\n\s*)*-- (?:[^\n]*\b(?:database )?dump\b)/i;
/** Pages explain what a key looks like. */
const EXPLAINS = /^(?:text\/html|text\/markdown|application\/pdf|text\/css)$/;

/** What a file is that visitors should not have; kept until it is known what pages link to. */
export interface Suspicion {
  readonly file: SurveyedFile;
  readonly exposure: Pick<Exposure, "code" | "reason" | "unless">;
}

const byCode = (code: string): Exposure => EXPOSURES.find((one) => one.code === code)!;
const PROGRAM: Suspicion["exposure"] = {
  code: "program",
  reason: "It is a program: anyone can search it for secrets and weaknesses.",
  unless: "offered",
};

/** What a file seems to be by its name and its first bytes; undefined for what visitors may have. */
export function suspect(
  file: SurveyedFile,
  { start, mediaType }: { readonly start: Uint8Array; readonly mediaType: string },
): Suspicion | undefined {
  const text = toLatin1(start);
  if (PRIVATE_KEY.test(text) && !EXPLAINS.test(mediaType)) return { file, exposure: byCode("private-key") };
  if (PROGRAMS.some((head) => head.every((byte, i) => start[i] === byte)) || WINDOWS_PROGRAM.test(text))
    return { file, exposure: PROGRAM };
  if (text.startsWith(DATABASE)) return { file, exposure: byCode("database") };
  if (DUMP.test(text)) return { file, exposure: byCode("database-dump") };
  const exposure = findExposure(file.path);
  if (exposure === undefined || exposure.byContent) return undefined;
  // Films share their extension with a language.
  if (exposure.code === "source" && /[\x00-\x08]/.test(text.slice(0, 512))) return undefined;
  return { file, exposure };
}

function toLatin1(bytes: Uint8Array): string {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString("latin1");
}

/** Reports what was suspected, but for what is offered on purpose. */
export function reportSuspicions(context: SurveyContext, suspicions: readonly Suspicion[]): void {
  for (const { file, exposure } of suspicions) {
    if (exposure.unless === "offered" && isOfferedOnPurpose(context, file)) continue;
    context.report(exposure.code, file, exposure.reason, withholdLine(patternFor(file.path, exposure)));
  }
}

/** True for what is a download, is listed, or has a page that links to it. */
function isOfferedOnPurpose(context: SurveyContext, { mount, path, fingerprinted }: SurveyedFile): boolean {
  const rules = selectRules(mount, path);
  if (findRule(rules.downloads, path, fingerprinted) !== undefined) return true;
  if (rules.listing !== undefined && rules.notListed.by(path) === undefined) return true;
  return context.linked.has(addressOf(mount, path));
}

// The narrowest pattern that is sure to mean such files alone: an ending, a name, or the very path.
function patternFor(path: string, { code }: Suspicion["exposure"]): string {
  const name = path.slice(path.lastIndexOf("/") + 1);
  const names = EXPOSURES.filter((one) => one.code === code).find((one) =>
    one.names?.test(name.toLowerCase()),
  )?.names;
  if (names === undefined) return path;
  const ending = /\.[a-z0-9]+$/i.exec(name)?.[0];
  if (ending !== undefined && (ENDINGS.has(code) || names.test(`x${ending.toLowerCase()}`)))
    return `*${ending}`;
  return /[*?[\]{}\\]/.test(name) ? path : name;
}

/** Kinds that an ending alone tells. */
const ENDINGS: ReadonlySet<string> = new Set(["source", "server-source", "log-file", "database"]);
