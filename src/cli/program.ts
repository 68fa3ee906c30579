import { readFileSync } from "node:fs";
import { Command } from "commander";
import { addCheck } from "./check.js";
import { addCompare } from "./compare.js";
import { addDemo } from "./demo.js";
import { addDraft } from "./draft.js";
import { addExplain } from "./explain.js";
import { addLab } from "./lab.js";
import { addPublish } from "./publish.js";
import { addReleases } from "./releases.js";
import { addSeal } from "./seal.js";
import { addServe } from "./serve.js";
import { addSurvey } from "./survey.js";
import { speakPlainly } from "./usage.js";

const { version } = JSON.parse(readFileSync(new URL(import.meta.resolve("epistyle/package.json")), "utf8"));

/** The command line, with all its commands. */
export function makeProgram(): Command {
  const program = new Command("epistyle")
    .description("Serves static files, and checks that every response is the one you expected.")
    .version(version, "-V, --version", "print the version")
    .addHelpText(
      "after",
      `
First steps:
  epistyle serve ./public                 serve a folder, and see each request with the file that answered
  epistyle explain /guide/ --folder ./public    say why an address is answered as it is
  epistyle survey ./public                find what nobody should get, before you publish

Exit status: 0 all is well; 1 the command worked and found something wrong; 2 it could not do its work.`,
    );
  addServe(program);
  addExplain(program);
  addCheck(program);
  addDraft(program);
  addCompare(program);
  addSurvey(program);
  addSeal(program);
  addPublish(program);
  addReleases(program);
  addLab(program);
  addDemo(program);
  speakPlainly(program);
  return program;
}
