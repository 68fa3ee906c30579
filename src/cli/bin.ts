#!/usr/bin/env node
// Loads the command line, so that what goes wrong before its first line runs can be told.
import { existsSync } from "node:fs";
import * as nodeModule from "node:module";
import { dirname } from "node:path";

/** True where a module was not read although its folder is there: the process may open too few files. */
function hasTooFewDescriptors({ code, message }: NodeJS.ErrnoException): boolean {
  if (code === "EMFILE" || code === "ENFILE") return true;
  const path = /^Cannot find (?:package|module) '([^']+)'/.exec(message)?.[1];
  return code === "ERR_MODULE_NOT_FOUND" && path !== undefined && existsSync(dirname(path));
}

// What was compiled at the last start need not be compiled again, where Node can keep it (from 22.8 on).
(nodeModule as { enableCompileCache?: () => unknown }).enableCompileCache?.();

try {
  await import("./main.js");
} catch (error) {
  if (!hasTooFewDescriptors(error as NodeJS.ErrnoException)) throw error;
  process.stderr.write(
    "This process may open too few files to start; raise the limit, for example with: ulimit -n 1024\n",
  );
  process.exitCode = 2;
}
