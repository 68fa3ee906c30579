import * as z from "zod";
import { inspectDocument } from "../choosing/documents.js";
import { defineRule } from "../rule.js";
import { documentPath, reject } from "../values.js";
import { errorPagesCompiler } from "./compile.js";

const errorStatus = z.string().check((payload) => {
  if (!["403", "404", "410", "500", "503"].includes(payload.value))
    reject(payload, "an error page is for one of the statuses 403, 404, 410, 500, 503");
});

const schema = z.record(errorStatus, documentPath);

export const errorPages = defineRule({
  ...errorPagesCompiler,
  description: "Your pages for errors, by status. Without one for 410, the one for 404 is sent.",
  example: "{ 404: /404.html }",
  scope: "mount",
  schema,
  explain: (pages) => [...pages].map(([status, path]) => `${status}: /${path}`).join(", "),
  async inspect(pages, place) {
    const looks = Object.entries(pages).map(([status, path]) =>
      inspectDocument(path, `errorPages[${status}]`, "the built-in page is sent", place),
    );
    return (await Promise.all(looks)).flat();
  },
});
