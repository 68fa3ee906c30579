import type { SiteDefinition } from "../config/define.js";
import type { RunningLab } from "../lab/server/lab-server.js";
import { openLab } from "../lab/server/open-lab.js";
import { Watch } from "../lab/server/watch.js";
import type { Site } from "../site/site.js";
import type { ListenExtras } from "./listen.js";

interface Beside {
  readonly site: Site;
  readonly load: () => Promise<SiteDefinition>;
  readonly folder: string | undefined;
  readonly file: string | undefined;
  readonly edit: boolean;
}

/** A lab beside a server of the command line: it is opened when the server listens, and hears of each answer. */
export function besideServer({
  site,
  edit,
  file,
  ...rest
}: Beside): Pick<ListenExtras, "beside" | "onResponse"> & { close(): Promise<void> } {
  const watch = new Watch();
  let lab: RunningLab | undefined;
  return {
    onResponse: (record) => watch.note(record, site.mounts),
    async beside({ url }, terminal) {
      lab = await openLab({
        ...rest,
        configFile: file,
        expectations: undefined,
        edit,
        port: 0,
        address: url,
        watch,
        tell: (text) => terminal.print(terminal.colors.yellow(text)),
      });
      terminal.print(`The lab is at ${lab.url}`);
    },
    close: async () => lab?.close(),
  };
}
