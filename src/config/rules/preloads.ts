import * as z from "zod";
import { preloadsCompiler } from "../compilers/preloads.js";
import { defineRule } from "../rule.js";

const schema = z.boolean();

export const preloads = defineRule({
  ...preloadsCompiler,
  description:
    "Says in Link what a document's own head needs at once: style sheets, modules, what it preloads; over HTTP/2 a navigation is told before the answer (103 Early Hints, RFC 8297).",
  example: "true",
  scope: "site",
  schema,
  explain: (rules) => (rules === undefined ? "" : "from the head of each document"),
});
