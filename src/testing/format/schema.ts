import * as z from "zod";
import { PACK_NAMES } from "../packs/names.js";
import { group, testCase } from "./schema-case.js";
import { path, textOrNumber } from "./schema-texts.js";

const packUse = z.union([
  z.enum(PACK_NAMES),
  z.strictObject({
    pack: z.enum(PACK_NAMES).describe("The name of the pack."),
    paths: z.array(path).min(1).optional().describe("More addresses to look at."),
  }),
]);

/** An expectations file, version 1. */
export const expectationsSchema = z
  .strictObject({
    $schema: z.string().optional().describe("The address of this file's schema, for editors."),
    version: z.literal(1).describe("The version of this format: 1."),
    config: z.string().min(1).optional().meta({
      description: "The configuration file to run against in process, from this file's folder.",
      example: "epistyle.config.yaml",
    }),
    against: z.string().min(1).optional().meta({
      description: "The address to ask if there is no configuration.",
      example: "http://localhost:8080/",
    }),
    variables: z
      .record(
        z.string().regex(/^[A-Za-z_]\w*$/, { error: "a variable's name is a word, such as prefix" }),
        textOrNumber,
      )
      .optional()
      .meta({
        description:
          "Texts to use in the file, as a dollar sign with the name in braces; --set name=value replaces one.",
        example: "{ prefix: /explorer }",
      }),
    packs: z.array(packUse).optional().describe("Packs to run as well."),
    cases: z.array(testCase).min(1).optional().meta({
      description: "Cases that belong to no group.",
      example: "[{ request: GET /, expect: { status: 200 } }]",
    }),
    groups: z.array(group).min(1).optional().meta({
      description: "Cases that share a prefix, a request or expectations.",
      example: "[{ name: pages, cases: [{ request: GET / }] }]",
    }),
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

export type PackUse = z.output<typeof packUse>;
