// Compiles src/ to dist/, and writes the JSON Schemas that editors read.
import { chmodSync, existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { root, run } from "./setup.mjs";

removeOrphans();
run(process.execPath, ["node_modules/typescript/bin/tsc", "-b"]);
chmodSync(join(root, "dist/cli/bin.js"), 0o755);

const { z } = await import("zod");
const { fileSchema } = await import("../dist/config/schema.js");
const { listingSchema } = await import("../dist/config/listing-schema.js");
const { reportSchema } = await import("../dist/testing/reports/json.js");
const { sealSchema } = await import("../dist/config/seal-schema.js");
const { expectationsSchema } = await import("../dist/testing/format/schema.js");
mkdirSync(join(root, "dist/schema"), { recursive: true });
for (const [name, schema] of Object.entries({
  config: fileSchema,
  expectations: expectationsSchema,
  listing: listingSchema,
  report: reportSchema,
  seal: sealSchema,
})) {
  const json = z.toJSONSchema(schema, { io: "input", target: "draft-7" });
  writeFileSync(join(root, "dist/schema", `${name}.json`), `${JSON.stringify(json, null, 2)}\n`);
}

/** What was built of a module that is gone would still be packed, and imported by mistake. */
function removeOrphans() {
  const dist = join(root, "dist");
  if (!existsSync(dist)) return;
  for (const entry of readdirSync(dist, { recursive: true, withFileTypes: true })) {
    const built = join(entry.parentPath, entry.name);
    const source = join(root, "src", built.slice(dist.length).replace(/(?:\.d)?\.[jt]s$/, ".ts"));
    if (/\.(?:js|d\.ts)$/.test(entry.name) && !existsSync(source)) rmSync(built);
  }
}
