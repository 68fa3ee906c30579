import * as z from "zod";
import { defineRule } from "../rule.js";
import { preloadsCompiler } from "./compile.js";

const schema = z.boolean();

export const preloads = defineRule({
  ...preloadsCompiler,
  description:
    "Tells browsers early what a page needs: its style sheets, its modules, and its own preloads (Link; over HTTP/2 also 103 Early Hints, RFC 8297).",
  example: "true",
  scope: "site",
  schema,
  explain: (rules) => (rules === undefined ? "" : "from the head of each document"),
});
