import { compileCrossOrigin } from "../../core/rules/cross-origin.js";
import { innermost } from "../compiler.js";

type Value = "*" | false | readonly string[];

export const crossOriginCompiler = innermost({
  default: false,
  compile: (allowed: Value, where) => (allowed === false ? undefined : compileCrossOrigin(allowed, where)),
});
