// Chooses the faults that are tried: a sample that is the same on every machine, by the text of each fault and of its line.
import { createHash } from "node:crypto";
import { CheckStatus } from "@stryker-mutator/api/check";
import { declareFactoryPlugin, PluginKind } from "@stryker-mutator/api/plugin";
import { describeFault } from "./describe-fault.mjs";
import { WITHOUT_EFFECT } from "./without-effect.mjs";

const share = Number(process.env.EPISTYLE_MUTANTS_SHARE ?? 1);
/** Another sample of the same size. */
const sampleNumber = Number(process.env.EPISTYLE_MUTANTS_SAMPLE ?? 0);

function isInSample(fault) {
  const { file, line, was, becomes } = describeFault(fault);
  const text = [file, line, was, becomes, fault.mutatorName].join("\0");
  return createHash("sha256").update(text).digest().readUInt32BE(0) % share === sampleNumber % share;
}

const hasNoEffect = (fault) => {
  const { file, line, was, becomes } = describeFault(fault);
  return WITHOUT_EFFECT.some(
    (one) => one.file === file && one.line === line && one.was === was && one.becomes === becomes,
  );
};

const sample = () => ({
  async init() {},
  async check(faults) {
    const tried = { status: CheckStatus.Passed };
    const left = (reason) => ({ status: CheckStatus.CompileError, reason });
    const decide = (fault) => {
      if (!isInSample(fault)) return left("not in the sample");
      return hasNoEffect(fault) ? left("without effect") : tried;
    };
    return Object.fromEntries(faults.map((fault) => [fault.id, decide(fault)]));
  },
});

export const strykerPlugins = [declareFactoryPlugin(PluginKind.Checker, "sample", sample)];
