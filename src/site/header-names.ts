import type { SiteRequest } from "../core/request/request.js";

/** A request whose field names are in lower case: adapters give them so, and a person who writes one by hand need not. */
export function foldHeaderNames(request: SiteRequest): SiteRequest {
  for (const name in request.headers) {
    if (/[A-Z]/.test(name)) {
      const folded = Object.entries(request.headers).map(([key, value]) => [key.toLowerCase(), value]);
      return { ...request, headers: Object.fromEntries(folded) };
    }
  }
  return request;
}
