import { InvalidArgumentError } from "commander";
import { parseDuration } from "../config/durations.js";

/** What the command line asks to be checked, and where. */
export interface CheckRequest {
  /** Expectations files and names of packs. */
  readonly words: readonly string[];
  readonly config?: string;
  readonly folder?: string;
  readonly against?: string;
  readonly header?: Readonly<Record<string, string>>;
  readonly set?: Readonly<Record<string, string>>;
  readonly path?: readonly string[];
  readonly only?: string;
  readonly concurrency?: number;
  /** In milliseconds. */
  readonly timeout?: number;
  readonly retries?: number;
  readonly strict?: boolean;
  readonly methods?: true;
  readonly insecureTls?: true;
}

export const CHECK_REPORTS = ["pretty", "tap", "junit", "json", "html", "sarif"] as const;
export type CheckReport = (typeof CHECK_REPORTS)[number];

export function collectHeader(text: string, before: Record<string, string> = {}): Record<string, string> {
  const match = /^([!#$%&'*+\-.^_`|~\w]+):[ \t]*([^\r\n]*)$/.exec(text);
  if (match === null)
    throw new InvalidArgumentError("A header field is written 'Name: value', such as 'Accept: text/html'.");
  return { ...before, [match[1]!.toLowerCase()]: match[2]! };
}

export function collectAssignment(text: string, before: Record<string, string> = {}): Record<string, string> {
  const match = /^([A-Za-z_]\w*)=(.*)$/s.exec(text);
  if (match === null)
    throw new InvalidArgumentError("A variable is written name=value, such as prefix=/explorer.");
  return { ...before, [match[1]!]: match[2]! };
}

export function collectPath(text: string, before: readonly string[] = []): string[] {
  if (!/^\/\S*$/.test(text))
    throw new InvalidArgumentError("A path starts with a slash and has no spaces, such as /guide/.");
  return [...before, text];
}

export function parseCount(text: string): number {
  if (!/^\d{1,4}$/.test(text)) throw new InvalidArgumentError("A whole number is needed, such as 4.");
  return Number(text);
}

export function parseWidth(text: string): number {
  if (!/^[1-9]\d{0,2}$/.test(text)) throw new InvalidArgumentError("A whole number from 1 to 999 is needed.");
  return Number(text);
}

/** Reads a time, in milliseconds. */
export function parseTime(text: string): number {
  const seconds = parseDuration(text);
  if (!seconds) throw new InvalidArgumentError("A time is a number of seconds, or written as 10s or 2m.");
  return seconds * 1000;
}

/** Reads a time that may be none at all: 0. */
export function parsePause(text: string): number {
  return text === "0" ? 0 : parseTime(text);
}
