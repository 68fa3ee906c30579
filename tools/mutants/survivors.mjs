// Prints each fault that no test notices, as soon as that is known.
import { declareClassPlugin, PluginKind } from "@stryker-mutator/api/plugin";
import { describeFault } from "./describe-fault.mjs";

// What is reported counts lines and columns from 1, what is chosen from 0.
const fromZero = ({ start, end }) => ({ start: oneLess(start), end: oneLess(end) });
const oneLess = ({ line, column }) => ({ line: line - 1, column: column - 1 });

class Survivors {
  onMutantTested(fault) {
    if (fault.status !== "Survived" && fault.status !== "NoCoverage") return;
    const { file, line, was, becomes } = describeFault({ ...fault, location: fromZero(fault.location) });
    const unreached = fault.status === "NoCoverage" ? ", which no test reaches" : "";
    console.log(`\n${file}:${fault.location.start.line}${unreached}`);
    for (const [name, text] of Object.entries({ line, was, becomes })) {
      console.log(`  ${name.padEnd(8)}${text}`);
    }
  }
}

export const strykerPlugins = [declareClassPlugin(PluginKind.Reporter, "survivors", Survivors)];
