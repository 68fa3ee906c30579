import type { ShellRefusal } from "../explain/reason.js";
import { prefersHtml } from "../fields/accept.js";
import { Fields } from "../fields/fields.js";
import { fieldValue, type RequestHeaders } from "../request/request.js";
import type { Place } from "../rules/place.js";
import type { AppShell } from "../rules/rules.js";
import { foldName } from "../text/fold-name.js";
import type { OpenFiles } from "./open-files.js";
import type { Resolution } from "./resolution.js";

/** What the app shell makes of a request that nothing else answers: it answers, or the reason says why not. */
export async function resolveAppShell(
  files: OpenFiles,
  { path, rules }: Place,
  headers: RequestHeaders,
  own: Extract<Resolution, { kind: "none" }>,
): Promise<Resolution> {
  const shell = rules.appShell;
  if (shell === undefined) return own;
  const refusal = refuseShell(path, shell);
  if (refusal !== undefined) return { ...own, reason: { ...own.reason, shellRefused: refusal } };
  if (!asksForDocument(headers)) {
    const reason = { ...own.reason, shellRefused: { code: "not-a-navigation" as const } };
    return { ...own, reason, dependsOnClient: true };
  }

  const candidate = await files.open(shell.file, "app shell");
  switch (candidate.kind) {
    case "file":
      return { kind: "file", path: shell.file, file: candidate.file, reason: { code: "app-shell" } };
    case "error":
      return { kind: "none", status: candidate.status, reason: candidate.reason };
    default:
      return { ...own, reason: { ...own.reason, shellRefused: { code: "missing", subject: shell.file } } };
  }
}

function refuseShell(path: string, { except, isRoute }: AppShell): ShellRefusal | undefined {
  if (hasExtension(path) && !isRoute(foldName(path))) return { code: "extension" };
  const excepted = except.find((prefix) => path === prefix || path.startsWith(`${prefix}/`));
  return excepted === undefined ? undefined : { code: "excepted", subject: `/${excepted}` };
}

/** What the choice between an app shell and an error is made by (RFC 9110 §12.5.5). */
export const SHELL_VARY = Fields.of([
  "Vary",
  "Accept, Sec-Fetch-Mode",
  "only a navigation gets the app shell here",
]);

function hasExtension(path: string): boolean {
  return path.lastIndexOf(".") > path.lastIndexOf("/") + 1;
}

// Fetch Metadata: a client that sends the mode is believed; another is judged by what it accepts.
function asksForDocument(headers: RequestHeaders): boolean {
  const mode = fieldValue(headers, "sec-fetch-mode");
  return mode !== undefined ? mode === "navigate" : prefersHtml(fieldValue(headers, "accept"));
}
