import * as z from "zod";
import { NO_FILE, THE_APPLICATION } from "../checks/answerers.js";
import { CACHING_FORMS, parseCachingPhrase } from "../checks/caching.js";
import { readDigest } from "../checks/digest.js";
import {
  bound,
  fieldName,
  isTarget,
  notEmpty,
  oneOrMore,
  path,
  pattern,
  shortTime,
  textOrNumber,
  textThat,
} from "./schema-texts.js";

const headerExpectation = z.union([
  textOrNumber.check(({ value, issues }) => {
    if (value === "present" || value === "absent")
      issues.push({
        code: "custom",
        input: value,
        message: `a text is the whole value of the field: write { present: ${value === "present"} }`,
        continue: false,
      });
  }),
  z
    .strictObject({
      present: z
        .boolean()
        .optional()
        .describe("True: the field must be present, with any value. False: it must be absent."),
      matches: pattern.optional().describe("A pattern that matches somewhere in its value."),
      matchesNot: pattern.optional().describe("A pattern that matches nowhere in its value."),
      lists: oneOrMore(z.string())
        .optional()
        .describe("A member, or several, that the comma-separated list must have."),
      listsNot: oneOrMore(z.string())
        .optional()
        .describe("A member, or several, that the list must not have."),
      atLeast: z.number().optional().describe("The smallest value, as a number."),
      atMost: z.number().optional().describe("The largest value, as a number."),
      once: z.literal(true).optional().describe("The field must be sent in one line."),
    })
    .check(notEmpty("what the field must be is needed: write a text, or { present: true }")),
]);

const count = bound(z.int().min(0), "the count");

const jsonValue = z
  .strictObject({
    present: z.boolean().optional().describe("Whether there must be something at this place."),
    equals: z.json().optional().describe("The value; for a group of keys, the keys it must have."),
    contains: z.json().optional().describe("A list must have an entry like this; a text must contain this."),
    matches: pattern.optional().describe("A pattern that matches somewhere in the text."),
    matchesNot: pattern.optional().describe("A pattern that matches nowhere in the text."),
    type: z
      .enum(["string", "number", "integer", "boolean", "object", "array", "null"])
      .optional()
      .describe("The JSON type of the value."),
    atLeast: z.number().optional().describe("The smallest number."),
    atMost: z.number().optional().describe("The largest number."),
    count: count.optional().describe("How many entries a list has, or keys a group."),
  })
  .check(notEmpty("write what must be there: { equals: 3 } or { type: string }"));

const pictureSize = bound(z.int().min(1), "the size");

const bodyShape = {
  file: z
    .string()
    .min(1)
    .optional()
    .describe("The body is this file, byte by byte; from this file's folder."),
  equals: z.string().optional().describe("The whole text of the body."),
  contains: oneOrMore(z.string()).optional().describe("A text, or several, that the body must contain."),
  lacks: oneOrMore(z.string()).optional().describe("A text, or several, that the body must not contain."),
  matches: pattern.optional().describe("A pattern that matches somewhere in the body."),
  matchesNot: pattern.optional().describe("A pattern that matches nowhere in the body."),
  count: z
    .record(z.string().min(1), count)
    .optional()
    .describe("How often a text is in the body: the text, and a number or bounds."),
  length: bound(z.int().min(0), "the length").optional().describe("Bytes, content codings undone."),
  digest: textThat(
    (text) => readDigest(text) !== undefined,
    "a digest is written sha-256= or sha-512= and its value in hexadecimal, such as sha-256=e3b0c442…",
  )
    .optional()
    .describe("The digest of the body, such as sha-256=e3b0c442…, codings undone."),
  json: z.json().optional().describe("A part of the JSON value: members it must have, lists entry by entry."),
  jsonAt: z
    .record(
      textThat(
        (text) => /^(?:\/(?:[^~]|~[01])*)?$/.test(text),
        'a place in JSON is written as a pointer (RFC 6901), such as "/birds/0/name"',
      ),
      jsonValue,
    )
    .optional()
    .describe("What is at places in the JSON value, each a pointer (RFC 6901) such as /birds/0/name."),
  empty: z.boolean().optional().describe("True: there is no body. False: there is one."),
  sameAs: path.optional().describe("An address of the site with the same content."),
  picture: z
    .strictObject({
      width: pictureSize.optional().describe("Pixels."),
      height: pictureSize.optional().describe("Pixels."),
    })
    .check(notEmpty("a size is needed: write { width: 800 }"))
    .optional()
    .describe("The size of a picture: PNG, GIF, JPEG or WebP."),
};

const body = z
  .strictObject(bodyShape)
  .check(notEmpty("what the body must be is needed: write { contains: a text }"));

const cachingPhrase = textThat(
  (text) => parseCachingPhrase(text) !== undefined,
  `write caching as: ${CACHING_FORMS}`,
);
const status = z.union([
  z.int().min(100).max(599),
  textThat(
    (text) => /^[1-5]xx$/.test(text),
    "a status is a number without quotes, such as 200, or a class of them, such as 2xx",
  ),
]);

const cookie = z
  .strictObject({
    present: z.boolean().optional().describe("Whether the cookie is set."),
    value: z.string().optional().describe("Its value."),
    httpOnly: z.boolean().optional().describe("Whether scripts cannot read it."),
    secure: z.boolean().optional().describe("Whether it is sent over HTTPS only."),
    sameSite: z.enum(["Strict", "Lax", "None"]).optional().describe("When other sites' pages send it."),
    path: z.string().optional().describe("The path below which it is sent."),
  })
  .check(notEmpty("what the cookie must be is needed: write { httpOnly: true }"));

const leadsTo = z.union([
  textThat(isTarget, 'where it leads is a path of the site, such as "/guide/", or a whole address'),
  z.strictObject({
    address: textThat(
      isTarget,
      'where it leads is a path of the site, such as "/guide/", or a whole address',
    ).describe("The address at the end."),
    steps: z.int().min(1).max(20).optional().describe("The most redirects on the way; default 5."),
  }),
]);

/** What may be taken back of what a group expects. */
const KEYS = [
  "status",
  "redirect",
  "leadsTo",
  "answeredBy",
  "mediaType",
  "charset",
  "coding",
  "caching",
  "cookies",
  "httpVersion",
  "firstByte",
  "headers",
  "body",
  "parts",
] as const;

const shape = {
  status: oneOrMore(status).optional().describe("A status, a class such as 2xx, or several."),
  redirect: textThat((text) => text !== "" && !/\s/.test(text), "an address has no spaces")
    .optional()
    .describe("Where Location points: a path of the site, or a whole address."),
  leadsTo: leadsTo
    .optional()
    .describe("Where the redirects lead in the end: an address that answers with 2xx."),
  answeredBy: textThat(
    (text) => text.startsWith("/") || text === NO_FILE || text === THE_APPLICATION,
    `the file that answers, as its address, not escaped, such as /guide/index.html; or "${NO_FILE}", "${THE_APPLICATION}"`,
  )
    .optional()
    .describe("The file that answers; only known in process."),
  mediaType: textThat(
    (text) => /^[^\s/;]+\/[^\s/;]+$/.test(text),
    "a media type without parameters is needed, such as text/html; write the charset as charset: utf-8",
  )
    .optional()
    .describe("Media type without parameters, such as text/html."),
  charset: z.string().min(1).optional().describe("The charset that Content-Type names, such as utf-8."),
  coding: oneOrMore(
    textThat((text) => !/^brotli$/i.test(text), 'this coding is called br: write "br"').min(1),
  )
    .optional()
    .describe("Content coding: br, gzip, none."),
  caching: oneOrMore(cachingPhrase)
    .optional()
    .describe("How long copies are kept, in words such as: revalidated each time."),
  headers: z.record(fieldName, headerExpectation).optional().describe("Header fields by name."),
  cookies: z
    .union([z.literal("none"), z.record(z.string().min(1), cookie)])
    .optional()
    .describe("Cookies that are set, by name; none for no cookie at all."),
  httpVersion: z
    .enum(["1.0", "1.1"])
    .optional()
    .describe("The version of HTTP, in quotes; only known over the network."),
  firstByte: z
    .strictObject({ atMost: shortTime.describe("Such as 200ms.") })
    .optional()
    .describe("How soon the answer begins; only known over the network."),
  body: body.optional().describe("The content, codings undone."),
  parts: z
    .array(
      z
        .strictObject({
          headers: z.record(fieldName, headerExpectation).optional().describe("Header fields of the part."),
          length: bound(z.int().min(0), "the length").optional().describe("Bytes of the part."),
          contains: z.string().optional().describe("A text that the part must contain."),
        })
        .check(
          notEmpty("what the part must be is needed: write { headers: { Content-Range: bytes 0-9/100 } }"),
        ),
    )
    .min(1)
    .optional()
    .describe("The parts of a multipart/byteranges body, in their order."),
};

/** Each key as it may be written in YAML, for messages and the documentation. */
export const EXAMPLES: Readonly<Record<string, string>> = {
  status: "200",
  redirect: "/guide/",
  leadsTo: "/guide/",
  answeredBy: "/guide/index.html",
  mediaType: "text/html",
  charset: "utf-8",
  coding: "[br, gzip]",
  caching: "[fresh for at least 1 year, immutable]",
  headers: "{ X-Content-Type-Options: nosniff }",
  cookies: "{ session: { httpOnly: true } }",
  httpVersion: '"1.1"',
  firstByte: "{ atMost: 200ms }",
  body: "{ contains: Larkholm }",
  parts: "[{ length: 100 }]",
  except: "[caching]",
};

// Told once for each key of the shape.
for (const [name, schema] of Object.entries(shape)) {
  const { description = "" } = schema;
  z.globalRegistry.add(schema, { description, example: EXAMPLES[name] });
}

export const expectation = z.strictObject({
  ...shape,
  except: oneOrMore(
    textThat(
      (text) => (KEYS as readonly string[]).includes(text) || /^(?:headers|body)\.[\w-]+$/.test(text),
      `except can name ${KEYS.join(", ")}, or headers.Vary, body.contains`,
    ),
  )
    .optional()
    .describe(
      "Expectations of the group that this case does not have: caching, headers.Vary, body.contains.",
    ),
});

export type Expectation = z.output<typeof expectation>;
export type BodyExpectation = z.output<typeof body>;
export type HeaderExpectation = z.output<typeof headerExpectation>;
export type JsonExpectation = z.output<typeof jsonValue>;
export type CookieExpectation = z.output<typeof cookie>;
export type PartExpectation = NonNullable<Expectation["parts"]>[number];
