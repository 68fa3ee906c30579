import * as z from "zod";
import { isToken } from "../../core/fields/grammar.js";
import { headersCompiler } from "../compilers/headers.js";
import { defineRule } from "../rule.js";
import { files, reject } from "../values.js";

/** Fields that say how the message is framed, or that other rules decide: the key to use instead, or why there is none. */
const TAKEN: Readonly<Record<string, string>> = {
  "content-length": "it frames the message and is always set",
  "transfer-encoding": "it frames the message",
  connection: "it frames the message",
  "keep-alive": "it frames the message",
  upgrade: "it frames the message",
  te: "it frames the message",
  trailer: "it frames the message",
  date: "the server sets it",
  "content-range": "it frames a partial answer",
  "accept-ranges": "it is always set",
  "content-encoding": "the key codings decides it",
  "content-type": "the keys mediaTypes and charset decide it",
  "content-disposition": "the key downloads decides it",
  "cache-control": "the key caching decides it",
  "cdn-cache-control": "the key caching decides it",
  etag: "the key validators decides it",
  "last-modified": "the file's time decides it",
  vary: "it names what is negotiated, and is always set",
  "content-location": "it names the file where an address is a shorter one",
  location: "redirects are the library's own",
  "access-control-allow-origin": "the key crossOrigin decides it",
  "access-control-expose-headers": "the key crossOrigin decides it",
};

const fieldName = z.string().check((payload) => {
  const name = payload.value;
  if (!isToken(name))
    reject(payload, "a field name has letters, digits and dashes: write it as X-Frame-Options");
  const taken = TAKEN[name.toLowerCase()];
  if (taken !== undefined) reject(payload, `this field cannot be set here, since ${taken}`);
});

const fieldValue = z.string().check((payload) => {
  // RFC 9110 §5.5: a line break in a value would begin another field.
  if (!/^[\t\x20-\x7e]*$/.test(payload.value))
    reject(payload, "a field value is one line of ASCII: leave line breaks and control characters out");
});

const schema = z.array(z.strictObject({ files, set: z.record(fieldName, fieldValue) }));

export const headers = defineRule({
  ...headersCompiler,
  description: "Header fields of your own. All rules that match a file apply.",
  example: '[{ files: "*.html", set: { X-Season: spring } }]',
  scope: "mount",
  schema,
  explain: (rules) =>
    rules
      .map(({ files: shown, fields }) => `${shown}: ${[...fields].map(({ name }) => name).join(", ")}`)
      .join("; "),
});
