import { join } from "node:path";
import { build as viteBuild } from "vite";

export async function build() {
  await viteBuild({ configFile: join(import.meta.dirname, "vite.config.mjs"), logLevel: "warn" });
}
