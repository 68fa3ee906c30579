import { InvalidArgumentError } from "commander";
import { findWrongProxy, type Proxies } from "../adapters/client.js";
import type { ServerOptions } from "../adapters/node.js";

/** Reads how many proxies there are, or a list of their addresses. */
export function parseProxies(text: string): Proxies {
  const proxies = /^\d+$/.test(text) ? Number(text) : text.split(",").map((one) => one.trim());
  const wrong = findWrongProxy(proxies);
  if (wrong !== undefined) throw new InvalidArgumentError(`${wrong.wanted}.`);
  return proxies;
}

/** Reads where metrics are told: a path, a port, or a host and a port. */
export function parseMetrics(text: string): ServerOptions["metrics"] {
  if (text.startsWith("/")) return text;
  const [, host, port] = /^(?:(.+):)?(\d{1,5})$/.exec(text) ?? [];
  if (port === undefined || Number(port) > 65535)
    throw new InvalidArgumentError("Write a path such as /health/metrics, or a separate port such as 9100.");
  return { port: Number(port), host };
}

export function parsePort(text: string): number {
  const port = Number(text);
  if (!/^\d+$/.test(text) || port > 65535) {
    throw new InvalidArgumentError("A port is a whole number from 0 to 65535; 0 picks a free one.");
  }
  return port;
}
