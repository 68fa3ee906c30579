import { z } from "zod";

const request = z.union([
  z.string().check((payload) => {
    if (!/^(?:[A-Z]+ )?\/\S*$|^OPTIONS \*$/.test(payload.value)) {
      payload.issues.push({
        code: "custom",
        input: payload.value,
        message: 'a request is a method and a path: write it as "GET /guide/"',
      });
    }
  }),
  z.strictObject({
    method: z.string().min(1).optional(),
    path: z.string().startsWith("/", { error: 'a path starts with a slash: write it as "/guide/"' }),
    headers: z.record(z.string(), z.string()).optional(),
  }),
]);

const pattern = z.string().check((payload) => {
  try {
    new RegExp(payload.value, "u");
  } catch {
    payload.issues.push({
      code: "custom",
      input: payload.value,
      message: 'a regular expression of JavaScript is needed, such as "^max-age=\\\\d+$"',
    });
  }
});

const headerExpectation = z.union([
  z.string(),
  z.strictObject({ present: z.boolean() }),
  z.strictObject({ matches: pattern }),
]);

const expectation = z.strictObject({
  status: z.int().min(100).max(599).optional(),
  mediaType: z.string().optional().describe("Media type without parameters, such as text/html."),
  charset: z.string().optional(),
  headers: z.record(z.string(), headerExpectation).optional(),
  body: z.strictObject({ contains: z.union([z.string(), z.array(z.string())]) }).optional(),
});

const testCase = z.strictObject({
  name: z.string().min(1).optional(),
  request,
  expect: expectation,
});

/** An expectations file, version 1. */
export const expectationsSchema = z.strictObject({
  $schema: z.string().optional(),
  version: z.literal(1),
  config: z
    .string()
    .min(1)
    .optional()
    .describe("The configuration file to run against, from this file's folder."),
  cases: z.array(testCase).min(1),
});

export type ExpectationsFile = z.output<typeof expectationsSchema>;
export type Expectation = z.output<typeof expectation>;
type WrittenCase = z.output<typeof testCase>;

/** One case, ready to run. */
export interface Case {
  readonly name: string;
  readonly method: string;
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly expect: Expectation;
  /** Where it stands, as `file:line:column`. */
  readonly position: string;
}

export function toCase(written: WrittenCase, position: string): Case {
  const { method, path, headers } = readRequest(written.request);
  return {
    name: written.name ?? `${method} ${path}`,
    method,
    path,
    headers,
    expect: written.expect,
    position,
  };
}

function readRequest(written: WrittenCase["request"]): Pick<Case, "method" | "path" | "headers"> {
  if (typeof written !== "string") {
    return { method: written.method ?? "GET", path: written.path, headers: written.headers ?? {} };
  }
  const [first, second] = written.split(" ");
  return second === undefined
    ? { method: "GET", path: first!, headers: {} }
    : { method: first!, path: second, headers: {} };
}
