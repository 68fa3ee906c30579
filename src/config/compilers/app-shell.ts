import type { AppShell } from "../../core/rules/rules.js";
import { innermost } from "../compiler.js";
import { trimSlashes } from "../paths.js";

type Value = string | false | { readonly file: string; readonly except?: readonly string[] | undefined };

export const appShellCompiler = innermost({
  default: false,
  compile(shell: Value): AppShell | undefined {
    if (shell === false) return undefined;
    if (typeof shell === "string") return { file: trimSlashes(shell), except: [] };
    return { file: trimSlashes(shell.file), except: (shell.except ?? []).map(trimSlashes) };
  },
});
