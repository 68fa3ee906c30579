import { foldName } from "../../core/text/fold-name.js";
import { formatCount } from "../../core/text/size.js";
import { unescapeText } from "../../core/text/unescape.js";
import { addressOf, type SurveyContext, type SurveyedFile } from "../survey-context.js";
import type { BrokenTarget, Targets } from "./targets.js";

/** How many fragments of a page are named. */
const FRAGMENTS = 3;

/** Reports each address that leads to nothing once, with all the files that name it. */
export function reportBroken(context: SurveyContext, targets: Targets): void {
  const folded = new Map([...targets.addresses()].map((known) => [foldAddress(known), known]));
  for (const [path, target] of targets.broken) reportTarget(context, { path, target, targets, folded });
  for (const [address, { fragments, files }] of targets.lost) {
    const all = [...fragments].map((one) => `#${one.slice(0, 60)}`);
    const more = all.length > FRAGMENTS ? ` and ${formatCount(all.length - FRAGMENTS)} more` : "";
    context.reportAt("broken-fragment", {
      address,
      file: targets.fileAt(address)!.path,
      reason: `It has no ${all.slice(0, FRAGMENTS).join(", ")}${more}, which links name: they lead to its top.`,
      fix: "Correct the links, or give the place its id again.",
      places: placesOf(files),
    });
  }
}

interface Broken {
  readonly path: string;
  readonly target: BrokenTarget;
  readonly targets: Targets;
  readonly folded: ReadonlyMap<string, string>;
}

function reportTarget(context: SurveyContext, broken: Broken): void {
  const { path, target } = broken;
  const [first] = target.files;
  const told = describe(context, broken, first!.mount.at);
  if (told === undefined) return;
  const places = placesOf(target.files);
  const more = places.length === 1 ? "" : ` and ${formatCount(places.length - 1)} more`;
  const file = fileOf(path, first!);
  const isOne = places.length === 1;
  const verb = target.isLoaded ? (isOne ? "loads" : "load") : isOne ? "links to" : "link to";
  const written = target.written.includes("\\") ? ` as ${target.written.slice(0, 200)}` : "";
  const reason = `${told.reason}; ${places[0]!.address}${more} ${verb} it${written}.`;
  context.reportAt(told.code, { address: path, file, reason, fix: told.fix, places });
}

function describe(
  { refused, toldLinks }: SurveyContext,
  { path, target, targets, folded }: Broken,
  at: string,
): { readonly code: string; readonly reason: string; readonly fix: string } | undefined {
  const { verdict } = target;
  const under = `/${at}${path}`;
  if (at !== "" && targets.isKnown(under))
    return {
      code: "reference-outside-prefix",
      reason: `It lacks the prefix of the site: ${under} is there`,
      fix: under,
    };
  // What is outside every mount is somebody else's. The folder or the link itself was told of.
  if (verdict.kind === "outside" || refused.has(path) || toldLinks.has(path)) return undefined;
  const inOtherCase = folded.get(foldAddress(path));
  if (inOtherCase !== undefined && inOtherCase !== path)
    return {
      code: "reference-differs-in-case",
      reason: `The file is ${inOtherCase}: this works only on systems that ignore case`,
      fix: inOtherCase,
    };
  if (verdict.withheldBy !== undefined)
    return {
      code: "broken-reference",
      reason: `It is withheld (${verdict.withheldBy}), so visitors get 404`,
      fix: "Remove the link, or take the pattern out of withheld.",
    };
  return {
    code: "broken-reference",
    reason: WHY[verdict.kind],
    fix: "Correct the links, or add the file.",
  };
}

const WHY: Readonly<Record<Exclude<BrokenTarget["verdict"]["kind"], "outside">, string>> = {
  absent: "Nothing is at this address (404)",
  refused: "The folder has no document and no listing (403)",
  loops: "The redirects from here never end",
};

/** The path in the mount of whoever names it: where the file is missed. */
function fileOf(address: string, { mount }: SurveyedFile): string {
  const path = unescapeText(address.slice(1));
  return mount.at !== "" && path.startsWith(`${mount.at}/`) ? path.slice(mount.at.length + 1) : path;
}

const placesOf = (files: readonly SurveyedFile[]): { address: string; file: string }[] =>
  files.map(({ mount, path }) => ({ address: addressOf(mount, path), file: path }));

const foldAddress = (address: string): string => foldName(unescapeText(address));
