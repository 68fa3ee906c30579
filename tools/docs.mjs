// npm run docs: writes anew what is made of the code: the table of rules, and the reference.
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { build, root } from "./setup.mjs";
import { makeReference } from "./write-reference.mjs";

build();
const { formatRuleTable } = await import("../.cache/build/config/table.js");
const file = join(root, "docs/choosing-a-file.md");
const text = readFileSync(file, "utf8");
const written = text.replace(
  /(<!-- table of rules[^>]*-->\n)[\s\S]*?(\n<!-- end of table -->)/,
  (_, start, end) => start + formatRuleTable() + end,
);
writeFileSync(file, written);
writeFileSync(join(root, "docs/reference.md"), await makeReference());
