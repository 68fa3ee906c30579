import { checkOptions } from "../../site/arguments.js";
import { emitWarning } from "../../site/platform.js";
import type { Site } from "../../site/site.js";
import type { ResponseRecord } from "../response-record.js";
import { LOG_FORMS, type Log, type LogForm, openLog } from "./open-log.js";
import { openTerminal, type Terminal } from "./terminal.js";

/** Forms of a log that is asked for in code. */
export type LogFormInCode = Exclude<LogForm, "off">;

/** What is logged: a form, or where it goes besides. */
export type Logging =
  | LogFormInCode
  | {
      /** `"pretty"` when not given; `"combined"` in a file. */
      readonly form?: LogFormInCode;
      /** Lines are added to this file; standard output when not given. */
      readonly file?: string;
      /** Leaves out everything after the `?` of an address. */
      readonly redactQuery?: boolean;
    };

/** A log that is being opened. */
export interface StartedLog {
  /** Waits for nothing: what comes before it is open is written then. */
  readonly write: (record: ResponseRecord) => void;
  /** Resolves once it is open. Rejects with a StartError when its file cannot be opened. */
  readonly opened: Promise<void>;
  close(): Promise<void>;
}

/** Starts a log for answers of a site. Throws a TypeError for an unknown form. */
export function startLog(call: string, logging: Logging, site: Pick<Site, "mounts">): StartedLog {
  const { form, file, redactQuery = false } = readLogging(call, logging);
  const options = { form: form ?? (file === undefined ? "pretty" : "combined"), file, redactQuery } as const;
  let log: Log | undefined;
  const opening = openLog(
    options,
    { terminal: openTerminal(process.stdout), people: WARNINGS },
    () => site.mounts,
  );
  const opened = opening.then((one) => {
    log = one;
  });
  return {
    write(record) {
      if (log !== undefined) log.write(record);
      else opened.then(() => log!.write(record)).catch(() => {});
    },
    opened,
    async close() {
      await opened.catch(() => {});
      await log?.close();
    },
  };
}

const WARNINGS: Pick<Terminal, "print"> = { print: (text = "") => emitWarning(text) };

function readLogging(call: string, logging: Logging): Exclude<Logging, string> {
  const given = typeof logging === "string" ? { form: logging } : logging;
  const forms = LOG_FORMS.filter((form) => form !== "off");
  const wanted = `write "${forms.slice(0, -1).join('", "')}" or "${forms.at(-1)}", or { form, file }`;
  if (typeof given !== "object" || given === null)
    throw new TypeError(`${call}: found the option "log" as ${JSON.stringify(logging)}; ${wanted}.`);
  checkOptions(`${call}: log`, given, ["form", "file", "redactQuery"]);
  const { form } = given;
  if (form !== undefined && !(forms as readonly string[]).includes(form))
    throw new TypeError(`${call}: found the log form ${JSON.stringify(form)}; ${wanted}.`);
  return given;
}
