import { BlockList, isIP, type Socket } from "node:net";
import type { TLSSocket } from "node:tls";
import { type ForwardedElement, parseForwarded, parseXForwarded } from "../core/fields/forwarded.js";
import { fieldValue, type RequestHeaders } from "../core/request/request.js";

/** Who asked, as far as it can be trusted. */
export interface Client {
  /** IP address; undefined where the connection has none, such as a UNIX socket. */
  readonly address: string | undefined;
  /** `http` or `https`, as the visitor asked. */
  readonly scheme: string;
  /** The host that the visitor asked for; undefined when none was said. */
  readonly host: string | undefined;
}

/** Which proxies stand before the server: how many, or their addresses and networks such as `10.0.0.0/8`. */
export type Proxies = number | readonly string[];

/** The field that the proxies write: what other fields say comes from strangers. */
export type ProxyField = (typeof PROXY_FIELDS)[number];
/** `X-Forwarded-For` stands for `X-Forwarded-Proto` and `X-Forwarded-Host` as well. */
export const PROXY_FIELDS = ["X-Forwarded-For", "Forwarded"] as const;

/** What the connection itself tells. */
export interface Peer {
  /** Undefined for a UNIX socket, and for a connection that was reset. */
  readonly address: string | undefined;
  /** A UNIX socket: somebody on this machine. */
  readonly isLocal: boolean;
  readonly isSecure: boolean;
}

/** Reads who is at the other end of a socket, while it is open. A TCP connection that was reset has no address, and is still one. */
export function readPeer(socket: Socket | undefined): Peer {
  const address = socket?.remoteAddress;
  const isLocal =
    socket !== undefined &&
    address === undefined &&
    socket.localAddress === undefined &&
    socket.localPort === undefined &&
    !socket.destroyed;
  return { address, isLocal, isSecure: isEncrypted(socket) };
}

/** Finds who asked behind the proxies that are trusted. Throws a TypeError for what are no proxies, and for another field. */
export function makeClientReader(
  proxies: Proxies = 0,
  field: ProxyField = "X-Forwarded-For",
): (headers: RequestHeaders, peer: Peer) => Client {
  const isTrusted = compileProxies(proxies);
  const readElements = compileField(field);
  return (headers, peer) => {
    const own = { address: peer.address, scheme: peer.isSecure ? "https" : "http", host: hostOf(headers) };
    if (!isTrusted(peer.address, 0, peer.isLocal)) return own;
    const said = readElements(headers);
    // From the server outwards: what a proxy says is believed while it is one of ours.
    let client: Client = own;
    for (let hop = 0; hop < said.length; hop++) {
      const { for: address, proto, host } = said[said.length - 1 - hop]!;
      if (address === undefined) break;
      client = { address, scheme: proto ?? client.scheme, host: host ?? client.host };
      if (!isTrusted(address, hop + 1, false)) break;
    }
    return client;
  };
}

function compileField(field: ProxyField): (headers: RequestHeaders) => ForwardedElement[] {
  if (!PROXY_FIELDS.includes(field))
    throw new TypeError(
      `proxyField: found ${JSON.stringify(field)}; write ${PROXY_FIELDS.map((one) => JSON.stringify(one)).join(" or ")}.`,
    );
  if (field === "Forwarded") return (headers) => parseForwarded(fieldValue(headers, "forwarded") ?? "");
  return (headers) => {
    const nodes = fieldValue(headers, "x-forwarded-for");
    if (nodes === undefined) return [];
    return parseXForwarded({
      for: nodes,
      proto: fieldValue(headers, "x-forwarded-proto"),
      host: fieldValue(headers, "x-forwarded-host"),
    });
  };
}

// RFC 9113 §8.3.1: HTTP/2 says it by its own field.
function hostOf(headers: RequestHeaders): string | undefined {
  return fieldValue(headers, ":authority") ?? fieldValue(headers, "host");
}

/** True for who may say on whose behalf it asks; `hop` counts from the connection's own peer, which may be local. */
export type IsTrusted = (address: string | undefined, hop: number, isLocal: boolean) => boolean;

const HOW_MANY = "write how many there are, such as 1, or a list of their addresses";
const AN_ADDRESS = 'write an address such as "10.0.0.1", or a network such as "10.0.0.0/8"';

/** What of a value is no proxies, and what to write instead; undefined for what is. */
export function findWrongProxy(proxies: unknown): { found: unknown; wanted: string } | undefined {
  if (typeof proxies === "number")
    return Number.isInteger(proxies) && proxies >= 0 && proxies <= 20
      ? undefined
      : { found: proxies, wanted: HOW_MANY };
  if (!Array.isArray(proxies)) return { found: proxies, wanted: HOW_MANY };
  const wrong = proxies.findIndex((one) => readNetwork(one) === undefined);
  return wrong < 0 ? undefined : { found: proxies[wrong], wanted: AN_ADDRESS };
}

interface Network {
  readonly address: string;
  readonly bits: number;
  readonly family: "ipv4" | "ipv6";
}

function readNetwork(written: unknown): Network | undefined {
  const [, address = "", length] = /^([0-9a-f:.]+)(?:\/(\d{1,3}))?$/i.exec(String(written)) ?? [];
  const family = isIP(address);
  const most = family === 4 ? 32 : 128;
  const bits = length === undefined ? most : Number(length);
  return family === 0 || bits > most ? undefined : { address, bits, family: family === 4 ? "ipv4" : "ipv6" };
}

/** Tells who is one of the proxies. Throws a TypeError for what are no proxies. */
export function compileProxies(proxies: Proxies): IsTrusted {
  const wrong = findWrongProxy(proxies);
  if (wrong !== undefined) {
    const found = typeof wrong.found === "number" ? wrong.found : JSON.stringify(wrong.found);
    throw new TypeError(`proxies: found ${found}; ${wrong.wanted}.`);
  }
  if (typeof proxies === "number") return (_, hop) => hop < proxies;
  const list = new BlockList();
  for (const { address, bits, family } of proxies.map((one) => readNetwork(one)!))
    list.addSubnet(address, bits, family);
  return (address, _hop, isLocal) => {
    if (address === undefined) return isLocal;
    const bare = /^::ffff:(\d+(?:\.\d+){3})$/i.exec(address)?.[1] ?? address;
    const family = isIP(bare);
    return family !== 0 && list.check(bare, family === 4 ? "ipv4" : "ipv6");
  };
}

/** True for a connection over TLS. */
export const isEncrypted = (socket: Socket | undefined): boolean =>
  (socket as Partial<TLSSocket> | undefined)?.encrypted === true;
