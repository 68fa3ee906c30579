import type { AppShell, RuleValues } from "../../core/rules/rules.js";
import { asSaid, innermost } from "../compiler.js";
import { trimSlashes } from "../paths.js";
import { compilePattern } from "../patterns.js";

type AppShellValue =
  | string
  | false
  | {
      readonly file: string;
      readonly except?: readonly string[] | undefined;
      readonly routes?: readonly string[] | undefined;
    };

export const appShellCompiler = innermost({
  default: false,
  compile(shell: AppShellValue): AppShell | undefined {
    if (shell === false) return undefined;
    const { file, except = [], routes = [] } = typeof shell === "string" ? { file: shell } : shell;
    const patterns = routes.map(compilePattern);
    return {
      file: trimSlashes(file),
      except: except.map(trimSlashes),
      isRoute: (folded) => patterns.some(({ matches }) => matches(folded)),
    };
  },
});

export const defaultDocumentsCompiler = asSaid<RuleValues["defaultDocuments"]>(["index.html"]);
export const impliedExtensionsCompiler = asSaid<RuleValues["impliedExtensions"]>([]);
export const longAddressesCompiler = asSaid<RuleValues["longAddresses"]>("answer");
export const whenMissingCompiler = asSaid<RuleValues["whenMissing"]>("pass");
