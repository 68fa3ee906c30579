// Production: the API, and the files of the present release, sealed. The release before it still answers for bundles that pages loaded.
import { existsSync, readlinkSync } from "node:fs";
import { createServer } from "node:http";
import { join } from "node:path";
import { openReloadable, openSite } from "epistyle";
import { loadConfigFile, nodeHandler } from "epistyle/node";
import { answerApi } from "./api.mjs";
import { release } from "./release.mjs";

const here = (path) => join(import.meta.dirname, path);
const LIVE = here("live");
/** How often the server looks whether another release is present, in milliseconds. */
const LOOK_MS = 1000;

/** Builds a first release unless one exists. */
export async function build() {
  if (!existsSync(LIVE)) await release();
}

export async function makeServer() {
  const site = await openReloadable(openRelease);
  const files = nodeHandler(site);
  const server = createServer((request, response) =>
    answerApi(request, response, () => files(request, response)),
  );
  let present = readlinkSync(LIVE);
  const looking = setInterval(async () => {
    const now = readlinkSync(LIVE);
    if (now === present) return;
    present = now;
    // What was begun ends with the release that it began with.
    await site.reload().catch((error) => console.error(`${now} cannot be served: ${error.message}`));
    console.log(`${now} is served.`);
  }, LOOK_MS);
  server.once("close", () => clearInterval(looking));
  return server;
}

// The rules are those of the build. Only where the files are is production's own.
async function openRelease() {
  const { config } = await loadConfigFile(here("epistyle.config.yaml"));
  const [app, ...others] = config.mounts;
  const mount = { ...app, folder: "live", earlierReleases: { folders: "builds/*", keep: 2 } };
  return openSite({ ...config, mounts: [mount, ...others] }, { seal: true });
}
