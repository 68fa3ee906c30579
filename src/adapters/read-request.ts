import type { SiteRequest } from "../core/request/request.js";
import type { NodeRequest } from "./node-messages.js";

/** The request head as the core takes it. */
export function readRequest(request: NodeRequest, mayPass: boolean, isSecure: boolean): SiteRequest {
  const { url = "", originalUrl } = request as NodeRequest & { originalUrl?: string };
  const target = originalUrl ?? url;
  return {
    method: request.method ?? "GET",
    target,
    headers: request.headers,
    strippedPrefix:
      originalUrl === undefined || originalUrl === url ? undefined : findPrefix(originalUrl, url),
    mayPass,
    isSecure,
    ...(hasSeveralHosts(request) && { hasSeveralHosts: true }),
  };
}

// The platform keeps the first of several lines.
function hasSeveralHosts({ rawHeaders, httpVersionMajor }: NodeRequest): boolean {
  if (httpVersionMajor !== 1 || rawHeaders === undefined) return false;
  let lines = 0;
  for (let i = 0; i < rawHeaders.length; i += 2)
    if (rawHeaders[i]!.length === 4 && rawHeaders[i]!.toLowerCase() === "host") lines++;
  return lines > 1;
}

/** What a host stripped: it leaves the whole target in `originalUrl` and the rest in `url`. */
export function findPrefix(original: string, rest: string): string | undefined {
  if (original.endsWith(rest)) return original.slice(0, original.length - rest.length) || undefined;
  // A target that is the prefix alone: the host adds the slash that was not there.
  const bare = rest.replace(/^\//, "");
  return original.endsWith(bare) ? original.slice(0, original.length - bare.length) || undefined : undefined;
}
