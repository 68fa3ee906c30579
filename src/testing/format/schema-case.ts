import * as z from "zod";
import { ONLY } from "./follow-up-written.js";
import { expectation } from "./schema-expectation.js";
import {
  duration,
  isTarget,
  method,
  notEmpty,
  oneOrMore,
  pattern,
  requestFields,
  target,
  textThat,
} from "./schema-texts.js";

const LINE = /^(?:[!#$%&'*+\-.^_`|~\w]+ )?(\S+)$/;
const requestLine = textThat(
  (text) => {
    const [, where] = LINE.exec(text) ?? [];
    return where !== undefined && (where === "*" ? text === "OPTIONS *" : isTarget(where));
  },
  (text) => {
    const [, method, path] = /^([A-Z]+) ([^\s/:]\S*)$/.exec(text) ?? [];
    return path === undefined
      ? 'a request is a method and a path without spaces: write it as "GET /guide/"'
      : `a path starts with a slash: write it as "${method} /${path}"`;
  },
);

const requestShape = {
  method: method.optional().describe("Default GET."),
  headers: requestFields
    .optional()
    .describe("Header fields to send, by name; a list sends a line for each value."),
  body: z.string().optional().describe("The content to send, as UTF-8."),
};

const request = z.union([
  requestLine,
  z.array(requestLine).min(1),
  z.strictObject({
    ...requestShape,
    path: oneOrMore(target).optional().describe("A path, or several: one case for each."),
  }),
]);

const followUp = z.union([
  z.enum(["revisit", "head", "range", "coding"]),
  z.strictObject({
    range: z
      .string()
      .check(({ value, issues }) => {
        const [, first, last] = /^bytes=(\d*)-(\d*)$/.exec(value) ?? [];
        const isRange = first !== undefined && (first !== "" || last !== "");
        const wanted = !isRange
          ? "one range is written as bytes=0-99, bytes=100- or bytes=-100"
          : first !== "" && last !== "" && Number(first) > Number(last)
            ? `the last byte comes before the first: write bytes=${last}-${first}`
            : first === "" && Number(last) === 0
              ? "this range has no byte: write bytes=-1 for the last one"
              : undefined;
        if (wanted !== undefined)
          issues.push({ code: "custom", input: value, message: wanted, continue: false });
      })
      .describe("One range, such as bytes=0-99."),
  }),
  z.strictObject({
    coding: oneOrMore(z.enum(["br", "gzip", "deflate", "zstd"])).describe("A content coding, or several."),
  }),
]);

const name = z.string().min(1).optional().describe("Name of the case; by default its request.");

const remember = z.record(
  z.string().regex(/^[A-Za-z_]\w*$/, { error: "a remembered value's name is a word, such as bundle" }),
  z
    .strictObject({
      field: z.string().min(1).optional().describe("The header field to search; by default the body."),
      matches: pattern.optional().describe("A pattern: the value is its first group, or the whole match."),
      pointer: z.string().optional().describe("A place in the JSON body (RFC 6901), such as /birds/0/id."),
    })
    .check(
      notEmpty('where the value is, is needed: write { field: Location } or { matches: \'src="([^"]+)"\' }'),
    ),
);

const step = z.strictObject({
  name,
  request: z
    .union([requestLine, z.strictObject({ ...requestShape, path: target.optional().describe("A path.") })])
    .describe("The next request; write a remembered value as a dollar sign with its name in braces."),
  expect: expectation.optional().describe("What its answer must be."),
  remember: remember.optional().describe("Values of its answer for later steps."),
});

const settings = {
  only: z.enum(ONLY).optional().describe("Where the case is asked; default both."),
  retries: z
    .int()
    .min(0)
    .max(10)
    .optional()
    .describe("How often a failed case is asked again, each time after a second."),
  timeout: duration.optional().describe("How long to wait for an answer, such as 10s."),
  alsoAsk: z.array(followUp).optional().describe("Further requests for the same resource."),
};

export const testCase = z
  .strictObject({
    name,
    request: request.optional().describe("The request: GET /guide/, or a group of keys."),
    each: oneOrMore(z.string().min(1))
      .optional()
      .describe(
        "Patterns over the addresses of the files that the site serves, or that its links lead to: one case for each.",
      ),
    except: oneOrMore(z.string().min(1)).optional().describe("Patterns of files that each leaves out."),
    expect: expectation
      .optional()
      .meta({ description: "What the answer must be.", example: "{ status: 200 }" }),
    remember: remember.optional().describe("Values of the answer, for the requests of next."),
    next: z.array(step).min(1).optional().describe("Further requests, one after the other."),
    times: z.int().min(2).max(10_000).optional().describe("How often it is asked; every answer must pass."),
    atOnce: z
      .int()
      .min(2)
      .max(1000)
      .optional()
      .describe("How many of these requests are sent at the same time."),
    ...settings,
  })
  .check(({ value, issues }) => {
    const object = (message: string): void =>
      void issues.push({ code: "custom", input: value, message, path: [], continue: false });
    const { request: written, each } = value;
    const hasPath =
      typeof written === "string" ||
      Array.isArray(written) ||
      (written as { path?: unknown })?.path !== undefined;
    if (hasPath && each !== undefined)
      object("a case has one path, or each for many: leave the path or each out");
    if (!hasPath && each === undefined)
      object('a case needs a path: write request: GET /, or each: "**/*.html" for many files');
    if (value.except !== undefined && each === undefined)
      object("except leaves files out of each; write each too");
    if (value.remember !== undefined && value.next === undefined)
      object("remember takes values for the requests of next; write next too, or leave remember out");
    if (value.atOnce !== undefined && value.times === undefined)
      object("atOnce says how many of the requests are sent at the same time; write times: 50 too");
  });

export const group = z.strictObject({
  name: z.string().min(1).describe("Name of the group."),
  under: textThat((text) => /^\/\S*$/.test(text), 'a prefix starts with a slash: write it as "/explorer"')
    .optional()
    .describe("Prefix of every path in the group."),
  request: z
    .strictObject(requestShape)
    .optional()
    .describe("What every request of the group has, unless the case sets it."),
  expect: expectation.optional().describe("What every case of the group expects, in addition to its own."),
  ...settings,
  cases: z.array(testCase).min(1).describe("The cases of the group."),
});

export type WrittenCase = z.output<typeof testCase>;
export type WrittenGroup = z.output<typeof group>;
export type WrittenRequest = z.output<typeof request>;
export type WrittenStep = z.output<typeof step>;
export type WrittenMemory = z.output<typeof remember>[string];
