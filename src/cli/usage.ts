import type { Command, CommanderError, Option } from "commander";
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

function describeOption({ description, argChoices, defaultValue, negate }: Option): string {
  const choices = argChoices === undefined ? "" : `: ${argChoices.join(", ")}`;
  const isTold = defaultValue !== undefined && !negate && typeof defaultValue !== "object";
  return `${description}${choices}${isTold ? ` (default ${defaultValue})` : ""}`;
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
      return `${title}: found the option ${JSON.stringify(first)}; ${nearest(first, names, `its options are ${names.join(", ")}`)}.`;
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

/** A command that does not exist, and what to write instead. */
export function describeUnknownCommand(name: string, program: Command): string {
  const found = `Found the command ${JSON.stringify(name)}`;
  if ((PACK_NAMES as readonly string[]).includes(name))
    return `${found}; it is a pack: write epistyle check ${name}.`;
  const names = program.commands.map((one) => one.name());
  return `${found}; ${nearest(name, names, `the commands are ${names.join(", ")}`)}.`;
}

function nearest(found: string, names: readonly string[], otherwise: string): string {
  const near = suggestName(found, names);
  return near === undefined ? otherwise : `write ${JSON.stringify(near)}`;
}

/** The long name of an option, as its flags have it: `-p, --port <N>`. */
function longName(flags: string): string {
  return /--[\w-]+/.exec(flags)?.[0] ?? flags;
}
