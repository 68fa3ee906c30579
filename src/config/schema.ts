import * as z from "zod";
import type { FileSource } from "../core/source.js";
import { addressKeys } from "./moved/moved.js";
import { RULE_NAMES, RULES, type RuleName } from "./rules.js";
import { duration, folderPath, pattern, reject, size } from "./values.js";

type Rules = typeof RULES;
type SharedName = { [K in RuleName]: Rules[K]["scope"] extends "site" ? K : never }[RuleName];

/** The keys of rules as a schema has them: each may be left out, and says what it does. */
type InFile<Name extends RuleName> = { [K in Name]: z.ZodOptional<Rules[K]["schema"]> };
type InCode<Name extends RuleName> = { [K in Name]: z.ZodOptional<Rules[K]["schemaInCode"]> };

function keysOf(names: readonly RuleName[], form: "schema" | "schemaInCode"): Record<string, z.ZodType> {
  return Object.fromEntries(
    names.map((name) => {
      const rule = RULES[name];
      return [
        name,
        (rule[form] as z.ZodType).optional().meta({ description: rule.description, example: rule.example }),
      ];
    }),
  );
}

const sharedNames = RULE_NAMES.filter((name) => RULES[name].scope === "site");
const inFile = keysOf(RULE_NAMES, "schema") as InFile<RuleName>;
const inCode = keysOf(RULE_NAMES, "schemaInCode") as InCode<RuleName>;
const sharedInFile = keysOf(sharedNames, "schema") as InFile<SharedName>;
const sharedInCode = keysOf(sharedNames, "schemaInCode") as InCode<SharedName>;

const prefix = z
  .string()
  .check((payload) => {
    const at = payload.value;
    if (!at.startsWith("/"))
      reject(payload, `a prefix starts with a slash: write "/${at.replace(/^\.?\/*/, "")}"`);
    else if (/[?#%\\*\0]/.test(at))
      reject(payload, 'a prefix is a plain path, not escaped and without patterns: write it as "/docs"');
    else if (/\/\/|\/\.{1,2}(\/|$)/.test(at))
      reject(payload, `a prefix has no empty or dot segments: write it as "${tidyPath(at)}"`);
  })
  .meta({
    description: 'URL prefix, such as "/docs"; "/" is the whole site.',
    example: "/archive",
    pattern: "^/(?!.*//)(?!.*/\\.{1,2}(?:/|$))[^?#%*\\\\]*$",
  });

const tidyPath = (path: string): string =>
  `/${path
    .split(/\/|\.{1,2}(?=\/|$)/)
    .filter(Boolean)
    .join("/")}`;

const earlierPattern = z.strictObject({
  folders: z
    .string()
    .min(1)
    .check((payload) => {
      const parent = payload.value.replace(/\/[^/]*$/, "");
      if (payload.value.endsWith("/"))
        reject(payload, 'the last name is the pattern: write it as "../builds/*"');
      else if (parent !== payload.value && parent.includes("*"))
        reject(payload, 'only the last name has a star: write it as "../builds/*"');
    })
    .optional()
    .meta({
      description:
        "A pattern of folders, each a release: ../builds/*. A site that is served from a release store needs none.",
      example: "../builds/*",
    }),
  keep: z
    .int()
    .min(1)
    .max(20)
    .optional()
    .describe(
      "How many of the newest count (at most 20): folders by when they last changed, releases of a store by when they were present.",
    ),
  within: duration.optional().describe("Not older than this, such as 14d."),
  files: z
    .union([pattern, z.array(pattern).min(1)])
    .optional()
    .describe("Patterns of further files that earlier builds still answer for, whatever their names are."),
});
/** A list of fingerprinted names, or where it is. */
const fingerprints = z
  .union([
    z.string().check((payload) => {
      if (/[*?{}[\]]/.test(payload.value))
        reject(
          payload,
          `a single value is the path of a list; patterns stand in brackets: write [${JSON.stringify(payload.value)}]`,
        );
      else if (payload.value === "") reject(payload, 'a list lies somewhere: write it as "./names.txt"');
    }),
    z.array(pattern).min(1),
  ])
  .optional()
  .meta({
    description:
      "Files whose names change with their content: patterns, or the path of a list that the build wrote (a path or a pattern on each line, or a manifest of Vite). Paths in it start at the mount's folder.",
    example: '["bundles/*"]',
  });
const EARLIER = "Earlier builds. They still answer for fingerprinted files that are not in this build.";
const earlierInFile = z
  .union([z.array(z.string().min(1)).min(1), earlierPattern])
  .optional()
  .describe(EARLIER);

/** The keys of a mount that are no rules: what it serves, and where. */
const mountKeys = {
  at: prefix.optional(),
  folder: z
    .string()
    .min(1)
    .optional()
    .meta({ description: "The folder whose files are served.", example: "./public" }),
  kind: z
    .enum(["pages", "app", "archive"])
    .optional()
    .describe("The set of rules to start with (default pages)."),
  links: z
    .enum(["inside", "none", "anywhere"])
    .optional()
    .describe("Which symbolic links to follow (default inside)."),
  fingerprints,
};

const AREAS = {
  description: "Rules for single folders of the mount.",
  example: "{ /records: { listing: true } }",
};
const AREA = { example: "{ listing: true }" };
const area = z.strictObject(inCode).meta(AREA);

const source = z
  .custom<FileSource>(
    (value) =>
      typeof value === "object" && value !== null && typeof (value as FileSource).open === "function",
    { error: "a source of files: write memorySource({ … }), or use the key folder" },
  )
  .meta({ typeName: "FileSource" });

const typesFile = z
  .string()
  .min(1)
  .optional()
  .describe(
    "Your system's file of media types, such as /etc/mime.types: each line has a type and its extensions.",
  )
  .meta({ example: "/etc/mime.types" });

const base = z
  .union([
    z.string(),
    z
      .custom<URL>((value) => Object.prototype.toString.call(value) === "[object URL]")
      .meta({ typeName: "URL" }),
  ])
  .describe("Where relative folders start: import.meta.url, or the absolute path of a folder.");

const MOUNTS = { description: "What to serve, and where.", example: "[{ folder: ./public }]" };

const MOUNT = { example: "{ folder: ./public }" };

const mountInFile = z
  .strictObject({
    ...mountKeys,
    earlierReleases: earlierInFile,
    ...inFile,
    areas: z.record(folderPath, z.strictObject(inFile).meta(AREA)).optional().meta(AREAS),
  })
  .meta({ needs: ["folder"], ...MOUNT });

const mountInCode = z.strictObject({
  ...mountKeys,
  earlierReleases: z
    .union([z.array(z.union([z.string().min(1), source])).min(1), earlierPattern])
    .optional()
    .describe(EARLIER),
  ...inCode,
  areas: z.record(folderPath, area).optional().meta(AREAS),
  source: source.optional().describe("Where the files come from, instead of a folder."),
});

const refuse = z
  .union([
    z.literal("severe"),
    z.strictObject({
      severity: z.literal("severe").describe("Findings of this severity make startup fail."),
      except: z
        .array(pattern)
        .min(1)
        .describe("Files and folders that are meant to be reached, as patterns from the mount's folder."),
    }),
  ])
  .optional()
  .describe(
    "Makes startup fail if a quick look finds files that nobody should reach: keys, secrets, a whole project.",
  );

const budget = z
  .strictObject({ picture: size.describe("The largest picture that pages may load: 1MB when not given.") })
  .optional()
  .describe("What a survey takes for too much.");

/** The configuration as a file holds it. */
export const fileSchema = z.strictObject({
  $schema: z.string().optional().describe("The address of this file's schema, for editors."),
  mounts: z.array(mountInFile).min(1).meta(MOUNTS),
  ...addressKeys,
  refuse,
  budget,
  typesFile,
  ...sharedInFile,
});

/** The configuration in code: a file's, with `base` and ready-made sources besides. */
export const siteSchema = z.strictObject({
  base: base.optional(),
  mounts: z.array(mountInCode).min(1).meta(MOUNTS),
  ...addressKeys,
  refuse,
  budget,
  typesFile,
  ...sharedInCode,
});
