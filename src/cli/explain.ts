import type { Command } from "commander";
import { openTerminal } from "../adapters/log/terminal.js";
import { SiteError } from "../config/site-error.js";
import type { SiteRequest } from "../core/request/request.js";
import { printableJson } from "../core/text/printable.js";
import { openSite } from "../site/open.js";
import type { Site } from "../site/site.js";
import { collectHeader } from "./check-options.js";
import { chooseDefinition, chooseRules } from "./definition.js";
import { printExplanation, toJson } from "./explain-report.js";

interface ExplainOptions {
  readonly config?: string;
  readonly folder?: string;
  readonly store?: string;
  readonly method: string;
  readonly header?: Readonly<Record<string, string>>;
  readonly json?: boolean;
  readonly all?: boolean;
  readonly behind?: boolean;
}

export function addExplain(program: Command): void {
  program
    .command("explain")
    .summary("say why an address is answered as it is")
    .description(
      "Answers one request in this process, and prints what answers it, why, and how to fix an error; then how it came about: " +
        "the mount, the rules that you set or that decided, every name that was tried, and the header fields. " +
        "Without --config and --folder it reads the one epistyle.config.yaml, .json, .js or .mjs of this folder.",
    )
    .argument("<TARGET>", "the address: a path such as /guide/, or the whole URL")
    .option("-c, --config <FILE>", "read the configuration from this file")
    .option("--folder <DIR>", "explain for a folder served without a configuration")
    .option(
      "--store <PLACE>",
      "explain for the present release of this store: a folder, or s3://BUCKET/PREFIX",
    )
    .option("--method <M>", "request method", "GET")
    .option(
      "--header <FIELD>",
      "a request header field, 'Name: value'; may be given several times",
      collectHeader,
      {},
    )
    .option("--behind", "as with an application behind the site, which gets requests without a file")
    .option("--all", "show every rule, also the defaults")
    .option("--json", "print the explanation as JSON, for programs")
    .addHelpText(
      "after",
      `
Examples:
  epistyle explain /guide/ --folder ./public
  epistyle explain /sightings/42 --header 'Sec-Fetch-Mode: navigate'
  epistyle explain http://localhost:8080/scripts/season.js --json`,
    )
    .action(async (target: string, options: ExplainOptions) => {
      const site = await open(options);
      const request: SiteRequest = { method: options.method, target, headers: options.header ?? {} };
      const behind = await site.explain({ ...request, mayPass: true });
      const isHandedOn = behind.answer.kind === "pass";
      // If somebody writes whenMissing: pass, there is an application.
      const isSaid = isHandedOn && (behind.answer.reason.whenMissing?.said ?? "default") !== "default";
      const isBehind = options.behind === true || isSaid;
      const explanation = isBehind ? behind : await site.explain(request);
      const terminal = openTerminal(process.stdout);
      if (options.json) terminal.print(printableJson(toJson(request, explanation), 2));
      else {
        const isForApplication = !isBehind && isHandedOn;
        printExplanation(terminal, request, explanation, { all: options.all === true, isForApplication });
      }
    });
}

async function open({ folder, config, store }: ExplainOptions): Promise<Site> {
  if (store === undefined) return openSite(await chooseDefinition(folder, config));
  if (folder !== undefined)
    throw new SiteError(["--folder: found it with --store, which has the files; leave one of them out."]);
  const onNotice = (text: string): void => void process.stderr.write(`${text}\n`);
  const rules = await chooseRules(config);
  return rules === undefined ? openSite({ store, onNotice }) : openSite(rules, { store, onNotice });
}
