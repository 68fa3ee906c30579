import { type FieldValues, READ_FIELDS, type RequestKey } from "../core/keep/kept-answers.js";
import type { NodeRequest } from "./node-messages.js";
import { findPrefix } from "./read-request.js";

/** Where a field stands among READ_FIELDS, by its name as clients write it. */
const FIELDS = new Map<string, number>();
for (const [index, name] of READ_FIELDS.entries()) {
  FIELDS.set(name, index);
  FIELDS.set(
    name.replace(/\b[a-z]/g, (letter) => letter.toUpperCase()),
    index,
  );
}
/** One more is counted: RFC 9112 §3.2 allows one line of it. */
const HOST = READ_FIELDS.length;
FIELDS.set("host", HOST);
FIELDS.set("Host", HOST);
/** Names that begin otherwise are not looked up. */
const BEGINNINGS = new Set(
  [...FIELDS.keys()].flatMap((name) => [name.charCodeAt(0), name.toUpperCase().charCodeAt(0)]),
);

// Filled and read within one call.
const values: (string | undefined)[] = [...READ_FIELDS, "host"].map(() => undefined);

/** What a request asks for, but for its fields; undefined for a method that kept answers have nothing to do with. */
export function readKey(request: NodeRequest, mayPass: boolean, isSecure: boolean): RequestKey | undefined {
  const { method } = request;
  if (method !== "GET" && method !== "HEAD") return undefined;
  const { url = "", originalUrl } = request as NodeRequest & { originalUrl?: string };
  const target = originalUrl ?? url;
  const strippedPrefix = target === url ? undefined : findPrefix(target, url);
  return { method, target, strippedPrefix, mayPass, isSecure };
}

/**
 * The values of READ_FIELDS, read from the fields as they came, without an object of all of them. Undefined when one came in
 * several lines. They are good until the next call.
 */
export function readFieldValues({ rawHeaders }: NodeRequest): FieldValues | undefined {
  // In place of a call out of compiled code.
  for (let i = 0; i < values.length; i++) values[i] = undefined;
  for (let i = 0; i < rawHeaders.length; i += 2) {
    const name = rawHeaders[i]!;
    if (!BEGINNINGS.has(name.charCodeAt(0))) continue;
    const field = FIELDS.get(name) ?? FIELDS.get(name.toLowerCase());
    if (field === undefined) continue;
    if (values[field] !== undefined) return undefined;
    values[field] = rawHeaders[i + 1];
  }
  return values;
}
