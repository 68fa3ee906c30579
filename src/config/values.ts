import * as z from "zod";
import { findPatternProblem } from "../core/rules/pattern-problem.js";
import { parseDuration } from "./durations.js";
import { parseSize } from "./sizes.js";

/** The values that several rules have in common. */

/** Adds a problem to a check: what would be right, and what to write. */
export function reject(payload: z.core.ParsePayload<unknown>, wanted: string): void {
  payload.issues.push({ code: "custom", input: payload.value, message: wanted });
}

/** A pattern of files. */
export const pattern = z.string().check((payload) => {
  if (payload.value.trim() === "")
    reject(payload, 'a pattern names files: write it as "*.bak" or "drafts/**"');
  const problem = findPatternProblem(payload.value);
  if (problem !== undefined) reject(payload, problem);
});

/** Which files a rule is for: a pattern, several, or the word `fingerprinted`. */
export const files = z.union([pattern, z.array(pattern).min(1)]).meta({
  description:
    'A pattern, a list of patterns, or "fingerprinted": names that bundlers made from the content.',
  example: '"*.css"',
});

export const duration = z
  .union([z.string(), z.number()])
  .check((payload) => {
    if (parseDuration(payload.value) === undefined)
      reject(payload, 'a duration is seconds, or a number with a unit: write it as "10m", "7d" or "1y"');
  })
  .meta({
    description: "A duration: 90s, 10m, 1h30m, 7d, 2w, 1y, or a number of seconds.",
    // For editors: what the check above takes.
    pattern: "^\\s*(?:\\d+|(?=\\d)(?:\\d+y)?(?:\\d+w)?(?:\\d+d)?(?:\\d+h)?(?:\\d+m)?(?:\\d+s)?)\\s*$",
  });

export const size = z
  .union([z.string(), z.number()])
  .check((payload) => {
    if (parseSize(payload.value) === undefined)
      reject(payload, 'a size is bytes, or a number with a unit: write it as "300KB" or "2MB"');
  })
  .meta({
    description: "A size: 300KB, 2MB, or a number of bytes.",
    pattern: "^\\s*(?=.*[1-9])\\d{1,9}\\s?[kKmM]?[bB]?\\s*$",
  });

/** A file of the mount, by its path from the mount's folder. */
export const documentPath = z
  .string()
  .check((payload) => {
    const path = payload.value;
    if (path === "" || path.endsWith("/"))
      reject(payload, 'a document is a file of the mount: write it as "/404.html"');
    else if (/(^|\/)\.{1,2}(\/|$)|\/\/|\\|\0/.test(path)) {
      reject(
        payload,
        'a document lies inside the mount\'s folder: write its path from there, as "/404.html"',
      );
    }
  })
  .meta({
    description: "Path of a file from the mount's folder, such as /index.html.",
    example: "/index.html",
    pattern: "^(?!.*(?:^|/)\\.{1,2}(?:/|$))(?!.*//)[^\\\\\\0]*[^/\\\\\\0]$",
  });

/** A folder of the mount, by its path from the mount's folder. */
export const folderPath = z
  .string()
  .check((payload) => {
    const path = payload.value;
    if (!path.startsWith("/")) reject(payload, `an area's path starts with a slash: write "/${path}"`);
    else if (/[?#*\\\0]|\/\/|\/\.{1,2}(\/|$)/.test(path))
      reject(payload, 'an area is a folder of the mount, not a pattern: write it as "/records"');
  })
  .meta({ pattern: "^/(?!.*//)[^?#*\\\\]*$" });

/** A file extension with its dot. */
export const extension = z
  .string()
  .check((payload) => {
    const text = payload.value;
    if (!/^\.[^/\\\0.\s]+(\.[^/\\\0.\s]+)*$/.test(text))
      reject(payload, `an extension begins with its dot: write ".${text.replace(/^[.*]+/, "") || "html"}"`);
  })
  .meta({ pattern: "^(?:\\.[^/\\\\.\\s]+)+$" });
