import { CommanderError } from "commander";
import { StartError } from "../adapters/node.js";
import { SiteError } from "../config/site-error.js";
import { makeProgram } from "./program.js";
import { describeUsageError } from "./usage.js";

// A reader that goes away, as `head` does, ends the output and not the program.
for (const stream of [process.stdout, process.stderr]) {
  stream.on("error", (error: NodeJS.ErrnoException) => {
    if (error.code !== "EPIPE") throw error;
  });
}

const program = makeProgram();

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) {
    process.exitCode = error.exitCode === 0 ? 0 : 2;
    // Help that was asked for by calling no command has been printed.
    if (error.exitCode !== 0 && error.code !== "commander.help")
      process.stderr.write(`${describeUsageError(error, program)}\n`);
  } else if (error instanceof SiteError || error instanceof StartError) {
    process.stderr.write(`${error.message}\n`);
    process.exitCode = 2;
  } else {
    throw error;
  }
} finally {
  // A worker would wait for who started it.
  if (process.env.EPISTYLE_WORKER !== undefined && process.connected) process.exit();
}
