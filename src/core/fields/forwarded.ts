import { isToken, splitMembers } from "./grammar.js";

/** What one proxy says of a request that it passed on (RFC 7239 §4). */
export interface ForwardedElement {
  /** Who asked this proxy: an IP address without port and brackets, `unknown`, or a name of the proxy's own. */
  readonly for?: string;
  /** The `Host` that the proxy was asked for. */
  readonly host?: string;
  /** The scheme that the proxy was asked by. */
  readonly proto?: string;
}

/** Reads `Forwarded`: an element for each proxy, the one next to the visitor first. An element that cannot be read says nothing. */
export function parseForwarded(value: string): ForwardedElement[] {
  return splitMembers(value, ",").map((element) => {
    const said: { for?: string; host?: string; proto?: string } = {};
    for (const pair of splitMembers(element, ";")) {
      const equals = pair.indexOf("=");
      const name = pair.slice(0, Math.max(0, equals)).toLowerCase();
      const text = readValue(pair.slice(equals + 1));
      if (text === undefined) continue;
      if (name === "for") said.for = readNode(text);
      if (name === "host") said.host = text;
      if (name === "proto" && isScheme(text)) said.proto = text.toLowerCase();
    }
    return said;
  });
}

/**
 * The same of the fields that proxies had before: `X-Forwarded-For` has an entry for each proxy, the others as many, or one for all.
 */
export function parseXForwarded(fields: {
  readonly for: string;
  readonly proto?: string | undefined;
  readonly host?: string | undefined;
}): ForwardedElement[] {
  const nodes = splitMembers(fields.for, ",");
  const [protos, hosts] = [fields.proto, fields.host].map((text) =>
    text === undefined ? [] : splitMembers(text, ","),
  );
  // Lists that are shorter were begun by a proxy further in: they are counted from this end.
  const at = (list: readonly string[], index: number): string | undefined =>
    list.length === 1 ? list[0] : list[list.length - (nodes.length - index)];
  return nodes.map((node, index) => {
    const [proto, host] = [at(protos!, index)?.toLowerCase(), at(hosts!, index)];
    return {
      for: readNode(node),
      ...(host !== undefined && host !== "" && { host }),
      ...(proto !== undefined && isScheme(proto) && { proto }),
    };
  });
}

// RFC 7239 §4: a token or a quoted string.
function readValue(text: string): string | undefined {
  if (!text.startsWith('"')) return isToken(text) ? text : undefined;
  return text.length >= 2 && text.endsWith('"') ? text.slice(1, -1).replace(/\\(.)/gs, "$1") : undefined;
}

// RFC 7239 §6: an address, in brackets for IPv6, with a port behind it or not.
function readNode(text: string): string {
  const brackets = /^\[([0-9a-f:.]+)\](?::\d{1,5}|:_[\w.-]+)?$/i.exec(text);
  if (brackets !== null) return brackets[1]!;
  const withPort = /^(\d{1,3}(?:\.\d{1,3}){3}):\d{1,5}$/.exec(text);
  return withPort?.[1] ?? text;
}

function isScheme(text: string): boolean {
  return /^[a-z][a-z0-9+.-]{0,30}$/i.test(text);
}
