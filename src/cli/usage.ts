import type { Command, CommanderError, Option } from "commander";
import { suggestValue } from "../config/wanted.js";
import { own } from "../core/text/own.js";
import { suggestName } from "../core/text/suggest.js";
import { PACK_NAMES } from "../testing/packs/names.js";

/** Gives a program and its commands our own words, for help and for what is written wrongly. */
export function speakPlainly(program: Command): void {
  program.helpCommand("help [COMMAND]", "show what a command does, and its options");
  for (const command of [program, ...program.commands]) {
    command
      .exitOverride()
      .showSuggestionAfterError(false)
      // Told by `describeUsageError` once the parser has given up.
      .configureOutput({ outputError: () => {} })
      .helpOption("-h, --help", "show this text")
      .configureHelp({ optionDescription: describeOption });
  }
}

function describeOption({
  description,
  argChoices,
  defaultValue,
  defaultValueDescription,
  negate,
}: Option): string {
  const choices = argChoices === undefined ? "" : `: ${argChoices.join(", ")}`;
  const isTold = defaultValue !== undefined && !negate && typeof defaultValue !== "object";
  return `${description}${choices}${isTold ? ` (default ${defaultValueDescription ?? defaultValue})` : ""}`;
}

/** What was written wrongly on the command line, in one sentence that says what to write instead. */
export function describeUsageError({ code, message }: CommanderError, program: Command): string {
  const [first = "", second = ""] = [...message.matchAll(/'([^']*)'/g)].map((match) => match[1]!);
  const command = program.commands.find((one) => program.args[0] === one.name()) ?? program;
  const title = command === program ? "epistyle" : `epistyle ${command.name()}`;
  switch (code) {
    case "commander.unknownOption": {
      const names = command.options.flatMap(({ long }) => long ?? []).concat("--help");
      const short = command.options.find((one) => one.short?.toLowerCase() === first.toLowerCase())?.short;
      if (short !== undefined)
        return `${title}: found the option ${JSON.stringify(first)}; write ${JSON.stringify(short)}.`;
      const argument = command.registeredArguments.find((one) => `--${one.name().toLowerCase()}` === first);
      if (argument !== undefined)
        return `${title}: found the option ${JSON.stringify(first)}; write it without an option: ${title} ${argument.name()}.`;
      const elsewhere = own(ELSEWHERE, first.replace(/^-+/, ""));
      const near = nearestOption(first, names);
      const wanted =
        near === undefined
          ? (elsewhere ?? `its options are ${names.join(", ")}`)
          : `write ${JSON.stringify(near)}`;
      return `${title}: found the option ${JSON.stringify(first)}; ${wanted}.`;
    }
    case "commander.unknownCommand":
      return describeUnknownCommand(first, program);
    case "commander.missingArgument": {
      const argument = command.registeredArguments.find((one) => one.name() === first);
      return `${title}: found no ${first}; write ${argument?.description ?? "it"}.`;
    }
    case "commander.excessArguments":
      return `${title}: found too many arguments; write ${title} ${command.usage()}.`;
    case "commander.optionMissingArgument":
      return `${longName(first)}: found no value after it; write ${first.replace(/^-\w, /, "")}.`;
    case "commander.invalidArgument": {
      const because = message.replace(/^.*? is invalid\. /s, "");
      const choices = /^Allowed choices are (.*)\.$/.exec(because)?.[1]?.split(", ");
      const wanted =
        choices === undefined
          ? because.replace(/\.$/, "").replace(/^[A-Z](?=[a-z ])/, (letter) => letter.toLowerCase())
          : nearest(second, choices, `write ${choices.slice(0, -1).join(", ")} or ${choices.at(-1)}`);
      const variable = / from env '(\w+)' is invalid/.exec(message)?.[1];
      const where = variable === undefined ? longName(first) : `${variable} of the environment`;
      return `${where}: found ${JSON.stringify(second)}; ${wanted}.`;
    }
    default:
      return message.replace(/^error: /, "");
  }
}

/** Options of other programs, and what to write here instead. */
const ELSEWHERE: Readonly<Record<string, string>> = {
  cache: "lifetimes are written in the configuration: caching",
  compress: "compression is on, and its rules are in the configuration: codings",
  cors: "other origins are named in the configuration: crossOrigin",
  dir: "write the folder without an option",
  directory: "write the folder without an option",
  figures: "write --metrics",
  gzip: "compression is on, and its rules are in the configuration: codings",
  headers: "header fields are written in the configuration: headers",
  https: "write --tls-cert and --tls-key",
  root: "write the folder without an option",
  silent: "write --log off",
  spa: "write --kind app",
  ssl: "write --tls-cert and --tls-key",
};

// The dashes that all begin with say nothing of how near two are.
function nearestOption(found: string, names: readonly string[]): string | undefined {
  const near = suggestName(
    found.replace(/^-+/, ""),
    names.map((name) => name.slice(2)),
  );
  return near === undefined ? undefined : `--${near}`;
}

/** A command that does not exist, and what to write instead. */
export function describeUnknownCommand(name: string, program: Command): string {
  const found = `Found the command ${JSON.stringify(name)}`;
  if ((PACK_NAMES as readonly string[]).includes(name))
    return `${found}; it is a pack: write epistyle check ${name}.`;
  const names = program.commands.map((one) => one.name());
  return `${found}; ${nearest(name, names, `the commands are ${names.join(", ")}`)}.`;
}

function nearest(found: string, names: readonly string[], otherwise: string): string {
  const near = suggestValue(names, found);
  return near === undefined ? otherwise : `write ${JSON.stringify(near)}`;
}

/** The long name of an option, as its flags have it: `-p, --port <N>`. */
function longName(flags: string): string {
  return /--[\w-]+/.exec(flags)?.[0] ?? flags;
}
