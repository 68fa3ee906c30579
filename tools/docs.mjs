// npm run docs: writes the documentation's table of rules anew, from what each rule says of itself.
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { build, root } from "./setup.mjs";

build();
const { formatRuleTable } = await import("../.cache/build/config/table.js");
const file = join(root, "docs/choosing-a-file.md");
const text = readFileSync(file, "utf8");
const written = text.replace(
  /(<!-- table of rules[^>]*-->\n)[\s\S]*?(\n<!-- end of table -->)/,
  (_, start, end) => start + formatRuleTable() + end,
);
writeFileSync(file, written);
