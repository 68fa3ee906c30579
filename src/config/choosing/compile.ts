import type { AppShell, RuleValues } from "../../core/rules/rules.js";
import { asSaid, innermost } from "../compiler.js";
import { trimSlashes } from "../paths.js";

type AppShellValue =
  | string
  | false
  | { readonly file: string; readonly except?: readonly string[] | undefined };

export const appShellCompiler = innermost({
  default: false,
  compile(shell: AppShellValue): AppShell | undefined {
    if (shell === false) return undefined;
    if (typeof shell === "string") return { file: trimSlashes(shell), except: [] };
    return { file: trimSlashes(shell.file), except: (shell.except ?? []).map(trimSlashes) };
  },
});

export const defaultDocumentsCompiler = asSaid<RuleValues["defaultDocuments"]>(["index.html"]);
export const impliedExtensionsCompiler = asSaid<RuleValues["impliedExtensions"]>([]);
export const longAddressesCompiler = asSaid<RuleValues["longAddresses"]>("answer");
export const whenMissingCompiler = asSaid<RuleValues["whenMissing"]>("pass");
