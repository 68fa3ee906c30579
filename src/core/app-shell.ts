import { prefersHtml } from "./accept.js";
import { openCandidate, type ResolutionContext } from "./candidate.js";
import { fieldValue, type SiteRequest } from "./request.js";
import type { Resolution } from "./resolution.js";

/** The app shell, when the request is a navigation that it answers; undefined otherwise. */
export async function resolveAppShell(context: ResolutionContext): Promise<Resolution | undefined> {
  const shell = context.rules.appShell;
  if (shell === undefined) return undefined;
  const refusal = refuseShell(context, shell.except);
  if (refusal !== undefined) {
    context.trace?.push({ stage: "app shell", used: false, because: refusal });
    return undefined;
  }
  const candidate = await openCandidate(context, shell.file, "app shell");
  switch (candidate.kind) {
    case "file":
      return { kind: "file", path: shell.file, file: candidate.file, reason: { code: "app-shell" } };
    case "error":
      return { kind: "none", status: candidate.status, reason: candidate.reason };
    default:
      return undefined;
  }
}

/** Why the shell does not answer a request; undefined when it does. */
export function refuseShell(
  context: Pick<ResolutionContext, "path" | "request">,
  except: readonly string[],
): string | undefined {
  const { path, request } = context;
  if (hasExtension(path)) return "the name has a file extension, so it asks for a file and not for a page";
  const excepted = except.find((prefix) => path === prefix || path.startsWith(`${prefix}/`));
  if (excepted !== undefined) return `/${excepted} is in the shell's exceptions`;
  if (!isNavigation(request)) {
    return "the request is not a navigation (neither Sec-Fetch-Mode: navigate nor an Accept that prefers HTML)";
  }
  return undefined;
}

function hasExtension(path: string): boolean {
  return path.lastIndexOf(".") > path.lastIndexOf("/") + 1;
}

// Fetch Metadata: a client that sends the mode is believed; another is judged by what it accepts.
function isNavigation({ headers }: SiteRequest): boolean {
  const mode = fieldValue(headers, "sec-fetch-mode");
  return mode !== undefined ? mode === "navigate" : prefersHtml(fieldValue(headers, "accept"));
}
