import * as z from "zod";

/** A file of findings that are known and left as they are. */
export const acceptedSchema = z
  .strictObject({
    accept: z
      .array(
        z.strictObject({
          code: z.string().describe("The finding's code, such as source-map"),
          files: z.string().describe("The files it is about: a path from the mount's folder, or a pattern"),
          reason: z.string().min(1).describe("Why it is accepted"),
        }),
      )
      .describe("Known findings that are accepted"),
  })
  .describe("What a survey ignores");
