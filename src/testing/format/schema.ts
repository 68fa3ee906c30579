import * as z from "zod";
import { parseDuration } from "../../config/durations.js";
import { NO_FILE, THE_APPLICATION } from "../checks/answerers.js";
import { CACHING_FORMS, parseCachingPhrase } from "../checks/caching.js";
import { readDigest } from "../checks/digest.js";
import { PACK_NAMES } from "../packs/names.js";

type Test = (text: string) => boolean;

/** A text that a test lets pass; what is wanted otherwise, in words. */
const textThat = (holds: Test, wanted: string) =>
  z.string().check((payload) => {
    if (!holds(payload.value))
      payload.issues.push({ code: "custom", input: payload.value, message: wanted, continue: false });
  });
const oneOrMore = <Schema extends z.ZodType>(schema: Schema) => z.union([schema, z.array(schema).min(1)]);

const isPattern: Test = (text) => {
  try {
    new RegExp(text, "u");
    return true;
  } catch {
    return false;
  }
};
const pattern = textThat(
  isPattern,
  'a regular expression of JavaScript is needed, such as "^max-age=\\\\d+$"',
);
const METHOD = /^[!#$%&'*+\-.^_`|~\w]+$/;
const method = textThat((text) => METHOD.test(text), "a method is a word, such as GET");
const path = textThat(
  (text) => /^\/\S*$/.test(text) || text === "*",
  'a path starts with a slash and has no blanks: write it as "/guide/", a blank as %20',
);
const fieldName = z.string().regex(METHOD, { error: "the name of a header field is needed, such as Accept" });
/** A text, or a number, which YAML makes of what looks like one. */
const textOrNumber = z.union([z.string(), z.number()]).transform(String);
const fieldValue = textOrNumber.check((payload) => {
  if (/[\r\n\0]/.test(payload.value))
    payload.issues.push({
      code: "custom",
      input: payload.value,
      message: "a field's value has no line break: write it in one line",
      continue: false,
    });
});
const requestFields = z.record(fieldName, fieldValue);

const request = z.union([
  textThat(
    (text) => /^(?:[!#$%&'*+\-.^_`|~\w]+ )?\/\S*$|^OPTIONS \*$/.test(text),
    'a request is a method and a path without blanks: write it as "GET /guide/"',
  ),
  z.strictObject({
    method: method.optional(),
    path: path.optional(),
    headers: requestFields.optional(),
  }),
]);

/** A group of keys of which at least one is needed: an empty one would hold of everything. */
const notEmpty = (wanted: string) => (payload: { value: object; issues: unknown[] }) => {
  if (Object.keys(payload.value).length > 0) return;
  payload.issues.push({ code: "custom", input: payload.value, message: wanted, continue: false });
};

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
      present: z.boolean().optional(),
      matches: pattern.optional(),
      lists: oneOrMore(z.string())
        .optional()
        .describe("A member, or several, that a comma-separated list has."),
      listsNot: oneOrMore(z.string()).optional(),
    })
    .check(notEmpty("what the field must be is needed: write a text, or { present: true }")),
]);

const body = z
  .strictObject({
    file: z
      .string()
      .min(1)
      .optional()
      .describe("The body is this file, byte by byte; from this file's folder."),
    equals: z.string().optional(),
    contains: oneOrMore(z.string()).optional(),
    lacks: oneOrMore(z.string()).optional(),
    matches: pattern.optional(),
    length: z.int().min(0).optional().describe("Bytes, content codings undone."),
    digest: textThat(
      (text) => readDigest(text) !== undefined,
      "a digest is written sha-256= or sha-512= and its value in hexadecimal, such as sha-256=e3b0c442…",
    ).optional(),
    json: z
      .json()
      .optional()
      .describe("A part of the JSON value: members it must have, lists entry by entry."),
    empty: z.boolean().optional(),
  })
  .check(notEmpty("what the body must be is needed: write { contains: a text }"));

const cachingPhrase = textThat(
  (text) => parseCachingPhrase(text) !== undefined,
  `caching is said as: ${CACHING_FORMS}`,
);
const status = z.int().min(100).max(599);

const expectation = z.strictObject({
  status: oneOrMore(status).optional(),
  redirect: textThat((text) => text !== "" && !/\s/.test(text), "an address has no blanks")
    .optional()
    .describe("Where Location leads: a path of the site, or a whole address."),
  answeredBy: textThat(
    (text) => text.startsWith("/") || text === NO_FILE || text === THE_APPLICATION,
    `the file that answers, as its address, not escaped, such as /guide/index.html; or "${NO_FILE}", "${THE_APPLICATION}"`,
  )
    .optional()
    .describe("The file that answers; known in process only."),
  mediaType: textThat(
    (text) => /^[^\s/;]+\/[^\s/;]+$/.test(text),
    "a media type without parameters is needed, such as text/html; write the charset as charset: utf-8",
  )
    .optional()
    .describe("Media type without parameters, such as text/html."),
  charset: z.string().min(1).optional(),
  coding: oneOrMore(z.string().min(1)).optional().describe("Content coding: br, gzip, none."),
  caching: oneOrMore(cachingPhrase).optional(),
  headers: z.record(fieldName, headerExpectation).optional(),
  body: body.optional(),
});

const followUp = z.union([
  z.enum(["revisit", "head", "range", "coding"]),
  z.strictObject({
    range: textThat(
      (text) => /^bytes=(?:\d+-\d*|-\d+)$/.test(text),
      "one range is written as bytes=0-99, bytes=100- or bytes=-100",
    ),
  }),
  z.strictObject({ coding: oneOrMore(z.enum(["br", "gzip", "deflate", "zstd"])) }),
]);

const duration = z.union([z.string(), z.int().min(1)]).check((payload) => {
  if (!parseDuration(payload.value))
    payload.issues.push({
      code: "custom",
      input: payload.value,
      message: "a time is a number of seconds, or written as 10s or 2m",
      continue: false,
    });
});

export const ONLY = ["in process", "over the network"] as const;

const settings = {
  only: z.enum(ONLY).optional().describe("Where the case is asked; default both."),
  retries: z
    .int()
    .min(0)
    .max(10)
    .optional()
    .describe("How often a case that fails is asked again, a second later each time."),
  timeout: duration.optional(),
  alsoAsk: z.array(followUp).optional().describe("Further questions about the same resource."),
};

const testCase = z
  .strictObject({
    name: z.string().min(1).optional(),
    request: request.optional(),
    each: oneOrMore(z.string().min(1))
      .optional()
      .describe("Patterns over the addresses of the files that the site serves: one case for each file."),
    except: oneOrMore(z.string().min(1)).optional(),
    expect: expectation.optional(),
    ...settings,
  })
  .check(({ value, issues }) => {
    const object = (message: string): void =>
      void issues.push({ code: "custom", input: value, message, path: [], continue: false });
    const hasPath = typeof value.request === "string" || value.request?.path !== undefined;
    if (hasPath && value.each !== undefined)
      object("a case has one path, or each for many: leave the path or each out");
    if (!hasPath && value.each === undefined)
      object('a case needs a path: write request: GET /, or each: "**/*.html" for many files');
    if (value.except !== undefined && value.each === undefined)
      object("except leaves files out of each; write each too");
  });

const group = z.strictObject({
  name: z.string().min(1),
  under: textThat((text) => /^\/\S*$/.test(text), 'a prefix starts with a slash: write it as "/explorer"')
    .optional()
    .describe("Prefix of every path in the group."),
  request: z
    .strictObject({ method: method.optional(), headers: requestFields.optional() })
    .optional()
    .describe("What every request of the group has, where the case does not say otherwise."),
  expect: expectation.optional().describe("What every case of the group expects, besides its own."),
  ...settings,
  cases: z.array(testCase).min(1),
});

const packUse = z.union([
  z.enum(PACK_NAMES),
  z.strictObject({
    pack: z.enum(PACK_NAMES),
    paths: z.array(path).min(1).optional().describe("Addresses to look at, besides those that are found."),
  }),
]);

/** An expectations file, version 1. */
export const expectationsSchema = z
  .strictObject({
    $schema: z.string().optional(),
    version: z.literal(1),
    config: z
      .string()
      .min(1)
      .optional()
      .describe("The configuration file to run against in process, from this file's folder."),
    against: z.string().min(1).optional().describe("The address to ask where no configuration is given."),
    variables: z
      .record(
        z.string().regex(/^[A-Za-z_]\w*$/, { error: "a variable's name is a word, such as prefix" }),
        textOrNumber,
      )
      .optional()
      .describe(
        "Texts to use elsewhere, as a dollar sign with the name in braces; --set name=value replaces one.",
      ),
    packs: z.array(packUse).optional().describe("Ready-made expectations to run besides."),
    cases: z.array(testCase).min(1).optional(),
    groups: z.array(group).min(1).optional(),
  })
  .check(({ value, issues }) => {
    if (value.cases === undefined && value.groups === undefined && (value.packs ?? []).length === 0)
      issues.push({
        code: "custom",
        input: undefined,
        message:
          "cases, groups or packs are needed: write cases: [{ request: GET /, expect: { status: 200 } }]",
        path: ["cases"],
        continue: false,
      });
  });

export type ExpectationsFile = z.output<typeof expectationsSchema>;
export type Expectation = z.output<typeof expectation>;
export type BodyExpectation = z.output<typeof body>;
export type HeaderExpectation = z.output<typeof headerExpectation>;
export type FollowUpWritten = z.output<typeof followUp>;
export type WrittenCase = z.output<typeof testCase>;
export type WrittenGroup = z.output<typeof group>;
export type PackUse = z.output<typeof packUse>;
export const writtenExpectation = expectation;
