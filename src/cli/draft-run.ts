import { access, mkdir, writeFile } from "node:fs/promises";
import { dirname, relative, resolve } from "node:path";
import { shorten } from "../config/config-file.js";
import { SiteError } from "../config/site-error.js";
import { openSite } from "../site/open.js";
import { askSite } from "../testing/ask/in-process.js";
import { askServer } from "../testing/ask/server.js";
import { observeRecording } from "../testing/draft/from-har.js";
import { observeSite } from "../testing/draft/from-site.js";
import { writeDraft } from "../testing/draft/write.js";
import { chooseDefinition } from "./definition.js";

export interface DraftOptions {
  readonly config?: string;
  readonly folder?: string;
  readonly against?: string;
  readonly from?: string;
  readonly path?: readonly string[];
  readonly header?: Readonly<Record<string, string>>;
  /** In milliseconds. */
  readonly timeout?: number;
  readonly insecureTls?: true;
  readonly out?: string;
}

/** Writes a draft from what the options name. */
export async function runDraft(options: DraftOptions): Promise<void> {
  const { config, folder, against, from, out } = options;
  const given = Object.entries({ config, folder, against, from }).filter(([, value]) => value !== undefined);
  if (given.length > 1) {
    const names = given.map(([name]) => `--${name}`).join(" and ");
    throw new SiteError([`Found both ${names}; a draft is made from only one of them: leave the other out.`]);
  }
  if (out !== undefined) await checkFree(out);
  const text = await makeDraft(options);
  if (out === undefined) {
    process.stdout.write(text);
    return;
  }
  try {
    await mkdir(dirname(resolve(out)), { recursive: true });
    await writeFile(out, text, { flag: "wx" });
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    throw new SiteError([
      `--out: ${out} cannot be written (${code ?? message}); name a file in a folder that you can write to.`,
    ]);
  }
  process.stdout.write(`${out} is written. Run it with: ${sayCommand(options)}\n`);
}

/** The command that runs the draft, with the options that the file does not hold. */
function sayCommand({ out = "FILE", folder, insecureTls }: DraftOptions): string {
  const quote = (text: string): string =>
    /^[\w./:@%+=-]+$/.test(text) ? text : `'${text.replaceAll("'", "'\\''")}'`;
  return [
    `epistyle check ${quote(out)}`,
    ...(folder === undefined ? [] : [`--folder ${quote(folder)}`]),
    ...(insecureTls ? ["--insecure-tls"] : []),
  ].join(" ");
}

async function makeDraft(options: DraftOptions): Promise<string> {
  const { config, folder, against, from, path = [], header, timeout, insecureTls, out } = options;
  const command = sayCommand(options);
  if (from !== undefined) {
    const { address, observed } = await observeRecording(resolve(from));
    return writeDraft(observed, {
      about: `${address}, recorded in ${shorten(resolve(from))},`,
      against: `${address}/`,
      command,
    });
  }
  if (against !== undefined) {
    const asker = askServer(against, { headers: header, timeoutMs: timeout, insecureTls });
    try {
      const observed = await observeSite(asker, undefined, path).catch((error: Error) => {
        throw new SiteError([`--against: ${against} does not answer: ${error.message}.`]);
      });
      return await writeDraft(observed, { about: against, against, asker, command });
    } finally {
      await asker.close();
    }
  }
  const definition = await chooseDefinition(folder, config);
  const site = await openSite(definition);
  const asker = askSite(site);
  const base = out === undefined ? process.cwd() : dirname(resolve(out));
  const file = definition.file === undefined ? undefined : relative(base, resolve(definition.file));
  const about = file ?? `the folder ${folder}`;
  return writeDraft(await observeSite(asker, site, path), { about, config: file, asker, command });
}

async function checkFree(out: string): Promise<void> {
  const isThere = await access(out).then(
    () => true,
    () => false,
  );
  if (isThere)
    throw new SiteError([
      `--out: ${out} exists already, and may contain your work; name another file, or move it away.`,
    ]);
}
