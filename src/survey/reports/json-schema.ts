import * as z from "zod";

const finding = z.strictObject({
  code: z.string().describe("What kind of thing it is; explained in docs/survey.md"),
  severity: z.enum(["severe", "warning", "advice"]),
  address: z.string().describe("From the site's root, escaped"),
  file: z.string().describe("From the mount's folder; empty for the folder itself"),
  reason: z.string(),
  fix: z.string().describe("A line of configuration or a command to copy, or what to do"),
  places: z
    .array(z.strictObject({ address: z.string(), file: z.string() }))
    .optional()
    .describe("The files that have it, or that name the address, where it can be more than one"),
});

export const surveySchema = z
  .strictObject({
    version: z.literal(1),
    subject: z.string(),
    files: z.int().min(0).describe("Files that visitors can reach"),
    folders: z.int().min(0),
    milliseconds: z.number(),
    findings: z.array(finding).describe("The worst first"),
    accepted: z.int().min(0).describe("Known findings that were left out"),
    gone: z
      .array(z.strictObject({ code: z.string(), files: z.string(), reason: z.string() }))
      .describe("Accepted entries that no longer occur"),
  })
  .describe("What epistyle survey found");
