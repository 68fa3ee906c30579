import * as z from "zod";
import { type ListingRenderer, ORDERS } from "../../core/rules/listing.js";
import { defineRule } from "../rule.js";
import { ALL, listingCompiler } from "./compile.js";

const fields = {
  order: z.enum(ORDERS).optional().describe("The order of rows (default name)."),
  pageSize: z
    .union([z.int().min(10).max(5000), z.literal("all")])
    .optional()
    .describe("Rows on a page (default 500), or all: for programs that read one page only."),
  title: z
    .string()
    .min(1)
    .optional()
    .describe("Name of the mount, for the heading and the path above the table."),
  header: z.string().min(1).optional().describe("A sentence above the table."),
  footer: z.string().min(1).optional().describe("A sentence below the table."),
  styleSheet: z
    .string()
    .startsWith("/", { error: 'a style sheet of this site begins with a slash: write it as "/listing.css"' })
    .optional()
    .describe("Address of a style sheet to load after the built-in one."),
  icon: z
    .string()
    .startsWith("/", { error: 'an icon of this site begins with a slash: write it as "/favicon.svg"' })
    .optional()
    .describe("Address of the page's icon (default a built-in one)."),
  nameFilter: z
    .boolean()
    .optional()
    .describe("Offer a field that filters by name, from 20 names on (default true)."),
};

const render = z
  .custom<ListingRenderer>((value) => typeof value === "function", {
    error: "a function that gets a listing and returns { mediaType, body }",
  })
  .meta({ typeName: "ListingRenderer" });

const schema = z.union([z.boolean(), z.strictObject(fields)]);

const schemaInCode = z.union([
  z.boolean(),
  z.strictObject({
    ...fields,
    render: render
      .optional()
      .describe("Your own renderer: gets the listing, and returns { mediaType, body }."),
  }),
]);

export const listing = defineRule({
  ...listingCompiler,
  description: "Lists folders that have no default document: true, or how.",
  example: "{ title: Records, order: time }",
  scope: "mount",
  schema,
  schemaInCode,
  explain: (rules) =>
    rules === undefined
      ? "off"
      : `on, by ${rules.order}, ${rules.pageSize === ALL ? "all" : rules.pageSize} a page`,
});
