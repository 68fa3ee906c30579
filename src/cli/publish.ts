import type { Command } from "commander";
import { openTerminal } from "../adapters/log/terminal.js";
import { writeCommand } from "../core/text/command.js";
import { countOf, formatCount, formatSize } from "../core/text/size.js";
import { chooseDefinition } from "./definition.js";
import { openProgress } from "./progress.js";

interface PublishOptions {
  readonly config?: string;
  readonly store: string;
}

export function addPublish(program: Command): void {
  program
    .command("publish")
    .summary("put a release of a site into a store, and make it present")
    .description(
      "Puts each file that may be served into a release store, unless it is there already, then the seal of the release, and last makes " +
        "the release present: servers that were started with --store switch to it within a few seconds. Without FOLDER and --config it " +
        "reads the one epistyle.config.yaml, .json, .js or .mjs of this folder.",
    )
    .argument("[FOLDER]", "the folder to publish")
    .option("-c, --config <FILE>", "publish the folders of this configuration")
    .requiredOption("--store <PLACE>", STORE_HELP)
    .addHelpText(
      "after",
      `
Examples:
  epistyle publish ./dist --store /srv/larkholm
  epistyle publish ./dist --store s3://larkholm/site
  epistyle serve --store s3://larkholm/site

${STORE_ENVIRONMENT}`,
    )
    .action(async (folder: string | undefined, { config, store }: PublishOptions) => {
      const { publish } = await import("../site/store/publish.js");
      const definition = await chooseDefinition(folder, config);
      const terminal = openTerminal(process.stdout);
      const progress = openProgress(process.stderr);
      const published = await publish(definition, {
        store,
        onProgress(one) {
          if (one.kind === "waiting") progress.tell(one.text);
          else if (one.kind === "announced")
            progress.say(`Release ${one.number} is announced to the servers …`);
          else
            progress.say(
              `${formatCount(one.files)} of ${formatCount(one.of)} files, ${formatSize(one.bytes)} sent`,
            );
        },
      }).finally(() => progress.end());
      for (const warning of published.warnings) terminal.print(terminal.colors.yellow(`Warning: ${warning}`));
      const { number, isNew, before, sent } = published;
      const all = `${countOf(published.files)}, ${formatSize(published.bytes)}`;
      terminal.print(
        isNew
          ? `Release ${number} is present: ${all}. ${sent.files === 0 ? "Every file was there already" : `${formatCount(sent.files)} of them sent, ${formatSize(sent.bytes)}`}.`
          : before === number
            ? `Nothing changed: release ${number}, which is present, has these very files (${all}).`
            : `Release ${number} has these very files (${all}); it is present again.`,
      );
      if (before !== undefined && before !== number)
        terminal.print(
          writeCommand(
            store,
            (place) => `Go back to the one before with: epistyle releases --store ${place} --to ${before}`,
            `Go back to the one before with epistyle releases --to ${before}.`,
          ),
        );
    });
}

export const STORE_HELP = "the release store: a folder, or s3://BUCKET/PREFIX";
export const STORE_ENVIRONMENT = `A bucket is reached with S3_ENDPOINT, S3_REGION, S3_ACCESS_KEY_ID and S3_SECRET_ACCESS_KEY of the environment
(and S3_SESSION_TOKEN, if the key has one).`;
