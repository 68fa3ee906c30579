import { z } from "zod";
import { isMediaType } from "../core/media-types/text-format.js";
import type { FileSource } from "../core/source.js";
import {
  caching,
  codings,
  crossOrigin,
  downloads,
  headers,
  listingInCode,
  listingInFile,
  pattern,
} from "./schema-files.js";

type Check = z.core.ParsePayload<string>;

function reject(payload: Check, wanted: string): void {
  payload.issues.push({ code: "custom", input: payload.value, message: wanted });
}

const prefix = z
  .string()
  .check((payload) => {
    const at = payload.value;
    if (!at.startsWith("/"))
      reject(payload, `a prefix starts with a slash: write "/${at.replace(/^\.?\/*/, "")}"`);
    else if (/[?#%\\*\0]/.test(at))
      reject(payload, 'a prefix is a plain path, not escaped and without patterns: write it as "/docs"');
    else if (/\/\/|\/\.{1,2}(\/|$)/.test(at))
      reject(payload, 'a prefix has no empty or dot segments: write it as "/docs"');
  })
  .describe('URL prefix, such as "/docs"; "/" is the whole site.');

const documentPath = z
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
  .describe("Path of a file from the mount's folder, such as /404.html.");

const fileName = z.string().check((payload) => {
  const name = payload.value;
  if (name === "" || name === "." || name === ".." || /[/\\\0]/.test(name)) {
    reject(payload, 'a default document is a file name without a folder: write it as "index.html"');
  }
});

const extension = z.string().check((payload) => {
  const text = payload.value;
  if (!/^\.[^/\\\0.\s]+(\.[^/\\\0.\s]+)*$/.test(text)) {
    reject(payload, `an extension begins with its dot: write ".${text.replace(/^[.*]+/, "") || "html"}"`);
  }
});

const mediaType = z.string().check((payload) => {
  const [type = "", ...parameters] = payload.value.split(";");
  if (!isMediaType(type.trim()) || parameters.some((p) => !/^[ \t]*[\w-]+=[\w"./+-]+$/.test(p))) {
    reject(payload, 'a media type has the form type/subtype: write it as "model/gltf-binary"');
  }
});

const charset = z.string().check((payload) => {
  if (!/^[A-Za-z0-9][\w.:+-]*$|^$/.test(payload.value))
    reject(payload, 'a charset is a name such as "utf-8"; "" names none');
});

const areaKey = z.string().check((payload) => {
  const path = payload.value;
  if (!path.startsWith("/")) reject(payload, `an area's path starts with a slash: write "/${path}"`);
  else if (/[?#*\\\0]|\/\/|\/\.{1,2}(\/|$)/.test(path)) {
    reject(payload, 'an area is a folder of the mount, not a pattern: write it as "/records"');
  }
});

const errorStatus = z.string().check((payload) => {
  if (!["403", "404", "500", "503"].includes(payload.value)) {
    reject(payload, "an error page belongs to one of the statuses 403, 404, 500, 503");
  }
});

const appShell = z.union([
  documentPath,
  z.literal(false),
  z.strictObject({
    file: documentPath,
    except: z.array(areaKey).optional().describe("Paths below which the shell does not answer."),
  }),
]);

const sharedRules = {
  defaultDocuments: z.array(fileName).optional().describe("Names tried in a directory, in order."),
  impliedExtensions: z
    .array(extension)
    .optional()
    .describe("Extensions tried when a name alone finds no file."),
  whenMissing: z
    .enum(["answer", "pass"])
    .optional()
    .describe("answer: an error; pass: hand the request on to the application."),
  withheld: z
    .array(pattern)
    .optional()
    .describe("Patterns of files that are never served; an area adds to what encloses it."),
  unlisted: z
    .array(pattern)
    .optional()
    .describe(
      "Patterns of files that listings leave out; they are still served. What must not be seen is withheld.",
    ),
  mediaTypes: z
    .record(extension, mediaType)
    .optional()
    .describe("Media types by extension, before the built-in table; an area adds to what encloses it."),
  codings: codings.optional().describe("Content codings that are offered."),
  validators: z
    .enum(["metadata", "content"])
    .optional()
    .describe(
      "What entity tags are made of: size and times (default), or the digest of the bytes, equal on every machine.",
    ),
  crossOrigin: crossOrigin.optional().describe("Which other origins may read the files."),
  charset: charset.optional().describe('Charset named for text types (default utf-8); "" names none.'),
};

const rules = {
  ...sharedRules,
  caching: caching
    .optional()
    .describe(
      "How long copies are fresh; the first rule that matches decides, and with none they are revalidated.",
    ),
  headers: headers.optional().describe("Header fields of your own; all rules that match are used."),
  downloads: downloads.optional().describe("Files that the browser saves and does not show."),
  appShell: appShell.optional().describe("The document that answers a navigation which no file answers."),
  errorPages: z
    .record(errorStatus, documentPath)
    .optional()
    .describe("Documents by the status they are sent with."),
};

const LISTING = "Lists directories that have no default document: true, or how.";
const areaInFile = z.strictObject({ ...rules, listing: listingInFile.optional().describe(LISTING) });
const area = z.strictObject({ ...rules, listing: listingInCode.optional().describe(LISTING) });

const mountFields = {
  at: prefix.optional(),
  folder: z.string().min(1).optional().describe("The folder whose files are served."),
  kind: z.enum(["pages", "app", "archive"]).optional().describe("The starting set of rules (default pages)."),
  links: z
    .enum(["inside", "none", "anywhere"])
    .optional()
    .describe("Which symbolic links are followed (default inside)."),
  ...rules,
};

const AREAS = "Rules of their own for folders inside the mount.";
const mountInFile = {
  ...mountFields,
  listing: listingInFile.optional().describe(LISTING),
  areas: z.record(areaKey, areaInFile).optional().describe(AREAS),
};
const mountInCode = {
  ...mountFields,
  listing: listingInCode.optional().describe(LISTING),
  areas: z.record(areaKey, area).optional().describe(AREAS),
};

const typesFile = z
  .string()
  .min(1)
  .optional()
  .describe(
    "A file of media types as systems have it, such as /etc/mime.types: a type and its extensions a line.",
  );

const source = z.custom<FileSource>(
  (value) => typeof value === "object" && value !== null && typeof (value as FileSource).open === "function",
  { error: "a source of files: write memorySource({ … }), or use the key folder" },
);

const base = z.union([
  z.string(),
  z.custom<URL>((value) => Object.prototype.toString.call(value) === "[object URL]"),
]);

/** The configuration as a file holds it. */
export const fileSchema = z.strictObject({
  $schema: z.string().optional(),
  mounts: z.array(z.strictObject(mountInFile)).min(1),
  typesFile,
  ...sharedRules,
});

/** The configuration in code: a file's, with `base` and ready-made sources besides. */
export const siteSchema = z.strictObject({
  base: base.optional(),
  mounts: z.array(z.strictObject({ ...mountInCode, source: source.optional() })).min(1),
  typesFile,
  ...sharedRules,
});

export type SiteConfig = z.input<typeof siteSchema>;
export type MountConfig = SiteConfig["mounts"][number];
export type AreaConfig = z.input<typeof area>;
export type SharedRules = Pick<SiteConfig, keyof typeof sharedRules>;
