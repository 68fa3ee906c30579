import * as z from "zod";
import { type AddressRule, formatAddress, type MovedAddresses } from "../../core/rules/moved.js";
import { compareText } from "../../core/text/compare-text.js";
import type { Told } from "../site-error.js";
import { reject } from "../values.js";
import { readAddress, readDestination } from "./compile.js";

/** An address of the site, as people read it or as it is escaped: `/reports/Season report.pdf`. A folder's ends with a slash. */
const oldAddress = z.string().check((payload) => {
  const problem = findProblem(payload.value);
  if (problem !== undefined) reject(payload, problem);
});

function findProblem(address: string): string | undefined {
  if (!address.startsWith("/"))
    return `an address starts with a slash: write "/${address.replace(/^https?:\/\/[^/]*\/?/i, "")}"`;
  if (address.includes("*"))
    return `an address cannot be a pattern: for a folder and everything below it, write "${address.replace(/\/?\*.*$/, "/")}"`;
  if (/[?#]/.test(address))
    return `an address is only a path, without query: write "${address.replace(/[?#].*$/s, "")}"`;
  const parsed = readAddress(address);
  return parsed === undefined || parsed.emptySegment
    ? 'an address is a plain path, without dot segments, empty segments or backslashes: write it as "/notes/2025.html"'
    : undefined;
}

/** A new address: one of the site, or one of another site with its scheme. */
const newAddress = z
  .string()
  .check((payload) => {
    const { value } = payload;
    if (readDestination(value) !== undefined) return;
    reject(
      payload,
      /^\/\/|^[\w-]+(\.[\w-]+)+\/|^[\w-]+(\.[\w-]+){2,}$/.test(value)
        ? `an address of another site needs its scheme: write "https://${value.replace(/^\/+/, "")}"`
        : 'a new address is a path of the site, as "/about", or one of another site, as "https://shop.larkholm.example/"',
    );
  })
  .meta({
    description: "The new address: a path of the site, or one of another site with https.",
    example: "/guide/",
  });

const movedTo = z
  .union([
    newAddress,
    z
      .strictObject({
        to: newAddress,
        temporary: z
          .boolean()
          .optional()
          .describe("The old address will be used again: 302 instead of 301 (default false)."),
        query: z
          .enum(["keep", "drop"])
          .optional()
          .describe("Whether the query is kept in the new address (default keep)."),
      })
      .check((payload) => {
        const { to, query } = payload.value;
        if (query === "keep" && to.includes("?"))
          reject(
            payload,
            "the new address has its own query: leave out the key query, or the query of the address",
          );
      }),
  ])
  .meta({ example: "/guide/" });

/** The keys that say which addresses moved, and which are gone. */
export const addressKeys = {
  moved: z.record(oldAddress, movedTo).optional().meta({
    description:
      "Addresses that moved: the old one, and the new one. A folder (with a slash at its end) moves with everything below it. Existing files come first.",
    example: "{ /birds/: /guide/ }",
  }),
  gone: z
    .array(oldAddress)
    .optional()
    .describe(
      "Addresses that are gone for good: they are answered with 410. A folder ends with a slash, and includes everything below it.",
    ),
};

/** What is wrong with the rules among each other, in sentences. */
export function findMovedProblems(addresses: MovedAddresses): Told[] {
  const { rules } = addresses;
  return [...findClashes(rules), ...findShapes(rules), ...findLoops(addresses)];
}

// A folder's rule and one of the address itself may both be there: the narrower one counts.
function findClashes(rules: readonly AddressRule[]): Told[] {
  const seen = new Map<string, string>();
  return rules.flatMap(({ label, from, folder }) => {
    const key = `${from}${folder ? "/" : ""}`;
    const first = seen.get(key);
    seen.set(key, first ?? label);
    return first === undefined
      ? []
      : [
          wrong(
            label,
            `found ${JSON.stringify(`/${key}`)}, but ${first} has another rule for it; leave one of them out.`,
          ),
        ];
  });
}

const wrong = (key: string, text: string): Told => ({ key, text: `${key}: ${text}` });

// What lies below a folder needs a folder to go to.
function findShapes(rules: readonly AddressRule[]): Told[] {
  return rules.flatMap(({ label, folder, to }) => {
    if (to === undefined || !folder) return [];
    const written = to.kind === "elsewhere" ? to.url : formatAddress(to.path, to.slash) + to.rest;
    return written.endsWith("/")
      ? []
      : [
          wrong(
            label,
            `found "${written}", which is not a folder; files below the old folder keep their names, so write a folder with a slash at its end, or single addresses.`,
          ),
        ];
  });
}

/** A redirect may lead to the next rule so often; browsers give up at twenty. */
const MOST_HOPS = 10;

/** How many of the rules that begin below a rule's new folder are tried with it. */
const MOST_SAMPLES = 1000;

// A circle of rules answers nobody, whatever files there are beside it.
function findLoops(addresses: MovedAddresses): Told[] {
  const moved = addresses.rules.filter(({ to }) => to?.kind === "here");
  const olds = moved.map(({ from }) => from).sort(compareText);
  const problems: Told[] = [];
  for (const rule of moved) {
    const samples = rule.folder ? [`${rule.from}/a page`, ...throughOthers(rule, olds)] : [rule.from];
    const way = samples
      .map((sample) => follow(addresses, sample))
      .find((labels) => labels.length > MOST_HOPS);
    if (way === undefined) continue;
    const circle = way.slice(0, way.indexOf(way[0]!, 1) + 1 || 3);
    problems.push(
      wrong(
        rule.label,
        `forms a circle (${circle.join(" → ")}); let each old address lead to where the files are now.`,
      ),
    );
  }
  return problems;
}

// Addresses of this folder that come to are in another rule's folder. `olds` are in order, so those below one are neighbours.
function throughOthers(rule: AddressRule, olds: readonly string[]): string[] {
  if (rule.to?.kind !== "here") return [];
  const start = rule.to.path === "" ? "" : `${rule.to.path}/`;
  let [low, high] = [0, olds.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (olds[middle]! < start) low = middle + 1;
    else high = middle;
  }
  const samples: string[] = [];
  for (let i = low; i < olds.length && olds[i]!.startsWith(start) && samples.length < MOST_SAMPLES; i++)
    samples.push(`${rule.from}/${olds[i]!.slice(start.length)}/a page`);
  return samples;
}

function follow(addresses: MovedAddresses, start: string): string[] {
  const labels: string[] = [];
  let path: string | undefined = start.replace(/^\//, "");
  while (path !== undefined && labels.length <= MOST_HOPS) {
    const found = addresses.find(path, false);
    if (found?.rule.to?.kind !== "here") break;
    labels.push(found.rule.label);
    path =
      found.below === "" ? found.rule.to.path : `${found.rule.to.path}/${found.below}`.replace(/^\//, "");
  }
  return labels;
}
