import * as z from "zod";
import { defineRule } from "../rule.js";
import { reject } from "../values.js";
import { charsetCompiler } from "./compile.js";

const name = z.string().check((payload) => {
  if (!/^[A-Za-z0-9][\w.:+-]*$|^$/.test(payload.value))
    reject(payload, 'a charset is a name such as "utf-8"; "" names none');
});

const schema = name;

export const charset = defineRule({
  ...charsetCompiler,
  description: `Charset for text files that don't declare one. "" adds none.`,
  example: "iso-8859-1",
  scope: "site",
  schema,
  explain: (value) => value,
});
