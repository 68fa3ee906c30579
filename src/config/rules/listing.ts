import * as z from "zod";
import { type ListingRenderer, ORDERS } from "../../core/rules/listing.js";
import { listingCompiler } from "../compilers/listing.js";
import { defineRule } from "../rule.js";

const fields = {
  order: z.enum(ORDERS).optional().describe("What rows are ordered by at first (default name)."),
  pageSize: z.int().min(10).max(5000).optional().describe("Rows on a page (default 500)."),
  title: z.string().min(1).optional().describe("Name of the mount, for the heading and the way up."),
  header: z.string().min(1).optional().describe("A sentence above the table."),
  footer: z.string().min(1).optional().describe("A sentence below the table."),
  styleSheet: z
    .string()
    .startsWith("/", { error: 'a style sheet of this site begins with a slash: write it as "/listing.css"' })
    .optional()
    .describe("Address of a style sheet that comes after the built-in one."),
  nameFilter: z
    .boolean()
    .optional()
    .describe("Offer a field that filters by name, where scripts run (default true)."),
};

const render = z
  .custom<ListingRenderer>((value) => typeof value === "function", {
    error: "a function that gets a listing and gives { mediaType, body }",
  })
  .meta({ typeName: "ListingRenderer" });

const schema = z.union([z.boolean(), z.strictObject(fields)]);

const schemaInCode = z.union([
  z.boolean(),
  z.strictObject({
    ...fields,
    render: render
      .optional()
      .describe("Makes the listing in your own way: gets it, and gives { mediaType, body }."),
  }),
]);

export const listing = defineRule({
  ...listingCompiler,
  description: "Lists folders that have no default document: true, or how.",
  example: "{ title: Records, order: time }",
  scope: "mount",
  schema,
  schemaInCode,
  explain: (rules) => (rules === undefined ? "off" : `on, by ${rules.order}, ${rules.pageSize} a page`),
});
