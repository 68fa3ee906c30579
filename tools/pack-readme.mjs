// Around npm pack: the README goes into the package without its pictures, and with links to what the package has. `restore` puts the
// whole one back.
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { root } from "./setup.mjs";

const readme = join(root, "README.md");
const kept = join(root, ".cache/README.md");

if (process.argv[2] === "restore") restore();
else strip();

/** A README that was left stripped, since packing was cut off, is put back first. */
function strip() {
  restore();
  const text = readFileSync(readme, "utf8");
  mkdirSync(dirname(kept), { recursive: true });
  writeFileSync(kept, text);
  writeFileSync(readme, withoutPictures(text));
}

function restore() {
  if (!existsSync(kept)) return;
  writeFileSync(readme, readFileSync(kept));
  rmSync(kept);
}

/** The text without pictures, and without links that lead to what is not packed. */
export function withoutPictures(text) {
  return text
    .replace(/^!\[[^\]]*\]\([^)]*\)\n\n?/gm, "")
    .replace(/\[([^\]]*)\]\((?!https?:|#|docs\/[\w-]+\.md|CHANGELOG\.md|SECURITY\.md)[^)]*\)/g, "$1");
}
