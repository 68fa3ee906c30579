import { readFileSync } from "node:fs";
import { Command, CommanderError } from "commander";
import { StartError } from "../adapters/node.js";
import { SiteError } from "../config/site-error.js";
import { addCheck } from "./check.js";
import { addCompare } from "./compare.js";
import { addDemo } from "./demo.js";
import { addDraft } from "./draft.js";
import { addExplain } from "./explain.js";
import { addLab } from "./lab.js";
import { addSeal } from "./seal.js";
import { addServe } from "./serve.js";
import { addSurvey } from "./survey.js";
import { describeUsageError, speakPlainly } from "./usage.js";

const { version } = JSON.parse(readFileSync(new URL("../../package.json", import.meta.url), "utf8"));

// A reader that goes away, as `head` does, ends the output and not the program.
for (const stream of [process.stdout, process.stderr]) {
  stream.on("error", (error: NodeJS.ErrnoException) => {
    if (error.code !== "EPIPE") throw error;
  });
}

const program = new Command("epistyle")
  .description("Serves static files, and checks that every response is the one you expected.")
  .version(version, "-V, --version", "print the version")
  .addHelpText(
    "after",
    `
Exit status: 0 all is well; 1 the command worked and found something wrong; 2 it could not do its work.`,
  );
addServe(program);
addExplain(program);
addCheck(program);
addDraft(program);
addCompare(program);
addSurvey(program);
addSeal(program);
addLab(program);
addDemo(program);
speakPlainly(program);

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
