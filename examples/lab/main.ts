import config from "../../demo/epistyle.config.yaml?raw";
import schema from "../../dist/schema/config.json";
import { mountLab } from "../../lab-page/mount.js";
import { openMemoryLab } from "./memory-lab.js";

// Every file of the demo, as an asset of this page: read once, and then in memory.
const urls = import.meta.glob<string>(["../../demo/site/**/*", "../../demo/archive/**/*"], {
  query: "?url",
  import: "default",
  eager: true,
});

async function readFiles(): Promise<Record<string, Record<string, Uint8Array>>> {
  const folders: Record<string, Record<string, Uint8Array>> = {};
  await Promise.all(
    Object.entries(urls).map(async ([path, url]) => {
      const [, folder, inside] = /demo\/([^/]+)\/(.*)$/.exec(path)!;
      const bytes = new Uint8Array(await (await fetch(url)).arrayBuffer());
      folders[folder!] = { ...folders[folder!], [inside!.normalize("NFC")]: bytes };
    }),
  );
  return folders;
}

mountLab(document.querySelector("#lab")!, await openMemoryLab(config, await readFiles(), schema));
