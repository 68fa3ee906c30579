// Chooses the faults that are tried: a sample that is the same on every machine, by the text of each fault and of its line.
import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { CheckStatus } from "@stryker-mutator/api/check";
import { declareFactoryPlugin, PluginKind } from "@stryker-mutator/api/plugin";

const share = Number(process.env.EPISTYLE_MUTANTS_SHARE ?? 1);
const lines = new Map();

function isInSample({ fileName, location: { start, end }, mutatorName, replacement }) {
  if (!lines.has(fileName)) lines.set(fileName, readFileSync(fileName, "utf8").split("\n"));
  const line = lines.get(fileName)[start.line] ?? "";
  const text = [
    fileName.split("/src/").at(-1),
    line,
    start.column,
    end.line - start.line,
    mutatorName,
    replacement,
  ];
  return createHash("sha256").update(text.join("\0")).digest().readUInt32BE(0) % share === 0;
}

const sample = () => ({
  async init() {},
  async check(mutants) {
    const left = { status: CheckStatus.CompileError, reason: "not in the sample" };
    const tried = { status: CheckStatus.Passed };
    return Object.fromEntries(mutants.map((mutant) => [mutant.id, isInSample(mutant) ? tried : left]));
  },
});

export const strykerPlugins = [declareFactoryPlugin(PluginKind.Checker, "sample", sample)];
