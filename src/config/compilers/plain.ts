import type { RuleValues } from "../../core/rules/rules.js";
import { type Compiler, innermost } from "../compiler.js";

/** The compilers of rules whose value is used as written. */

export const charsetCompiler = asSaid<RuleValues["charset"]>("utf-8");
export const defaultDocumentsCompiler = asSaid<RuleValues["defaultDocuments"]>(["index.html"]);
export const digestsCompiler = asSaid<RuleValues["digests"]>(false);
export const impliedExtensionsCompiler = asSaid<RuleValues["impliedExtensions"]>([]);
export const longAddressesCompiler = asSaid<RuleValues["longAddresses"]>("answer");
export const validatorsCompiler = asSaid<RuleValues["validators"]>("automatic");
export const whenMissingCompiler = asSaid<RuleValues["whenMissing"]>("pass");

function asSaid<Value>(value: NoInfer<Value>): Compiler<Value, Value> {
  return innermost({ default: value, compile: (said: Value) => said });
}
