/** Header fields by lower-case name. A field that was sent several times may be an array. */
export type RequestHeaders = Readonly<Record<string, string | readonly string[] | undefined>>;

/** A request head: all that a response depends on, besides the files. */
export interface SiteRequest {
  /** Method name, case-sensitive (RFC 9110 §9.1). */
  readonly method: string;
  /** Request target as received (RFC 9112 §3.2): origin form, absolute form, or `*`. */
  readonly target: string;
  /** Header fields; names in lower case. */
  readonly headers: RequestHeaders;
  /** The leading part of the path that a host stripped before it handed the request on, such as `/static`. */
  readonly strippedPrefix?: string;
  /** True when something behind the site can answer what the site does not. */
  readonly mayPass?: boolean;
  /** True when the client asked over TLS. */
  readonly isSecure?: boolean;
  /** True when it came with several lines of `Host`: such a request is refused (RFC 9112 §3.2). */
  readonly hasSeveralHosts?: boolean;
}

/** True for what says that a page is opened (Fetch Metadata §2.3). */
export function isNavigation({ headers }: Pick<SiteRequest, "headers">): boolean {
  return headers["sec-fetch-mode"] === "navigate";
}

/** True for a request that asks whether another may be sent (Fetch Standard §3.2.2). */
export function isPreflight({ method, headers }: SiteRequest): boolean {
  return method === "OPTIONS" && headers["access-control-request-method"] !== undefined;
}

/** The value of a field, several lines of it joined as RFC 9110 §5.3 allows; undefined when it was not sent. */
export function fieldValue(headers: RequestHeaders, name: string): string | undefined {
  const value = headers[name];
  return value === undefined || typeof value === "string" ? value : value.join(", ");
}
