import * as z from "zod";
import { isToken } from "../../core/fields/grammar.js";
import { own } from "../../core/text/own.js";
import { defineRule, type Finding } from "../rule.js";
import { coversFiles } from "../shadowed.js";
import { files, reject } from "../values.js";
import { headersCompiler } from "./compile.js";

/** Fields that say how the message is framed, or that other rules decide: the key to use instead, or why there is none. */
const TAKEN: Readonly<Record<string, string>> = {
  "content-length": "it is part of the message format, and always set",
  "transfer-encoding": "it is part of the message format",
  connection: "it is part of the message format",
  "keep-alive": "it is part of the message format",
  upgrade: "it is part of the message format",
  te: "it is part of the message format",
  trailer: "it is part of the message format",
  date: "the server sets it",
  "content-range": "it is part of a partial answer",
  "accept-ranges": "it is always set",
  "content-encoding": "the key codings sets it",
  "content-type": "the keys mediaTypes and charset set it",
  "content-disposition": "the key downloads sets it",
  "cache-control": "the key caching sets it",
  "cdn-cache-control": "the key caching sets it",
  etag: "the key validators sets it",
  "last-modified": "the file's time sets it",
  vary: "it names the fields that the answer depends on, and is always set",
  "content-location": "it names the file if the address is a shorter one",
  location: "redirects set it",
  "access-control-allow-origin": "the key crossOrigin sets it",
  "access-control-expose-headers": "the key crossOrigin sets it",
};

const fieldName = z.string().check((payload) => {
  const name = payload.value;
  if (!isToken(name))
    reject(payload, "a field name has letters, digits and dashes: write it as X-Frame-Options");
  const taken = own(TAKEN, name.toLowerCase());
  if (taken !== undefined) reject(payload, `you cannot set this field here, because ${taken}`);
});

const fieldValue = z.string().check((payload) => {
  // RFC 9110 §5.5: a line break in a value would begin another field.
  if (!/^[\t\x20-\x7e]*$/.test(payload.value))
    reject(payload, "a field value is one line of ASCII: remove line breaks and control characters");
});

const schema = z.array(
  z
    .strictObject({
      files,
      set: z
        .record(fieldName, fieldValue.meta({ example: "spring" }))
        .meta({ example: "{ X-Season: spring }" }),
    })
    .meta({ example: '{ files: "*.html", set: { X-Season: spring } }' }),
);

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
  inspect(rules, { where }) {
    return rules.flatMap(({ files: shown, set }, index): Finding[] => {
      const names = Object.keys(set).map((name) => name.toLowerCase());
      const later = rules.findIndex(
        (other, at) =>
          at > index &&
          coversFiles(other.files, shown) &&
          names.every((name) => Object.keys(other.set).some((one) => one.toLowerCase() === name)),
      );
      if (later < 0 || names.length === 0) return [];
      const key = `${where}.headers[${index}]`;
      const text = `${key} (${[shown].flat().join(", ")}): never applies, because ${where}.headers[${later}] (${[rules[later]!.files].flat().join(", ")}) comes later and sets the same fields for the same files; put it behind that rule, or leave it out.`;
      return [{ severity: "warning", key, text }];
    });
  },
});
