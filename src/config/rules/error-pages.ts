import * as z from "zod";
import { inspectDocument } from "../documents.js";
import { innermost } from "../rule.js";
import { documentPath, reject, trimSlashes } from "../values.js";

const errorStatus = z.string().check((payload) => {
  if (!["403", "404", "410", "500", "503"].includes(payload.value))
    reject(payload, "an error page belongs to one of the statuses 403, 404, 410, 500, 503");
});

export const errorPages = innermost({
  description: "Documents by the status they are sent with; without one for 410, that for 404.",
  scope: "mount",
  schema: z.record(errorStatus, documentPath),
  default: {},
  compile: (pages): ReadonlyMap<number, string> =>
    new Map(Object.entries(pages).map(([status, path]) => [Number(status), trimSlashes(path)])),
  explain: (pages) => [...pages].map(([status, path]) => `${status}: /${path}`).join(", "),
  async inspect(pages, place) {
    const looks = Object.entries(pages).map(([status, path]) =>
      inspectDocument(path, `errorPages[${status}]`, "the built-in page is sent", place),
    );
    return (await Promise.all(looks)).flat();
  },
});
