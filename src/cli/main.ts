import { CommanderError } from "commander";
import { StartError } from "../adapters/node.js";
import { SiteError } from "../config/site-error.js";
import { StoreError } from "../sources/store/object-store.js";
import { makeProgram } from "./program.js";
import { describeUnknownCommand, describeUsageError } from "./usage.js";

// A reader that goes away, as `head` does, ends the output and not the program.
for (const stream of [process.stdout, process.stderr]) {
  stream.on("error", (error: NodeJS.ErrnoException) => {
    if (error.code !== "EPIPE") throw error;
  });
}

const program = makeProgram();

const [, , first, second] = process.argv;
try {
  // The parser would print the help of the program.
  if (first === "help" && second !== undefined && !program.commands.some((one) => one.name() === second))
    throw new SiteError([describeUnknownCommand(second, program)]);
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) {
    process.exitCode = error.exitCode === 0 ? 0 : 2;
    // Help that was asked for by calling no command has been printed.
    if (error.exitCode !== 0 && error.code !== "commander.help")
      process.stderr.write(`${describeUsageError(error, program)}\n`);
  } else if (error instanceof SiteError || error instanceof StartError || error instanceof StoreError) {
    process.stderr.write(`${error instanceof SiteError ? describeSiteError(error) : error.message}\n`);
    process.exitCode = 2;
  } else {
    throw error;
  }
} finally {
  // A worker would wait for the process that started it.
  if (process.env.EPISTYLE_WORKER !== undefined && process.connected) process.exit();
}

// Whoever named a folder as an argument never wrote the key that the sentence is about.
function describeSiteError({ told, problems }: SiteError): string {
  const argument = process.argv.includes("--folder") ? "--folder" : "FOLDER";
  return problems
    .map((text, index) => {
      const { key, text: own } = told[index]!;
      return key === "mounts[0].folder" && own === text && text.startsWith(key)
        ? argument + text.slice(key.length)
        : text;
    })
    .join("\n");
}
