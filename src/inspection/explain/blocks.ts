import type { FieldLine } from "../../core/fields/fields.js";
import { own } from "../../core/text/own.js";
import type { Explanation } from "../../site/site.js";
import { type Stage, type StageRow, toStages } from "./stages.js";

export type Row = readonly string[];

/** A block of an explanation: what it is about, and rows of aligned columns. */
export interface Block {
  readonly title: string;
  readonly rows: readonly Row[];
}

/**
 * The stages of an explanation in blocks, in the order in which the answer came about; blocks without rows are left out. Of the
 * rules, those that were said somewhere or that decided; `all` shows every one.
 */
export function toBlocks(explanation: Explanation, { all = false } = {}): Block[] {
  const stages = new Map(toStages(explanation).map((stage) => [stage.name, stage]));
  const rowsOf = (name: Stage["name"], isMeant: (row: StageRow) => boolean = () => true): Row[] =>
    stages
      .get(name)!
      .rows.filter(isMeant)
      .map(({ cells }) => cells);
  const blocks: Block[] = [
    { title: "target", rows: rowsOf("target") },
    { title: "mount", rows: rowsOf("mount") },
    { title: "rules", rows: listRules(stages.get("rules")!, isWholeMount(explanation), all) },
    { title: "tried", rows: rowsOf("file", ({ role }) => role !== undefined) },
    { title: "condition", rows: rowsOf("conditions") },
    { title: "variant", rows: rowsOf("form", ({ about }) => about === "variant") },
    { title: "coding", rows: rowsOf("form", ({ about }) => about === "coding") },
    { title: "range", rows: rowsOf("range") },
    { title: "fields", rows: [...listFields(explanation).map(toRow), ...tellUndated(explanation)] },
  ];
  return blocks.filter(({ rows }) => rows.length > 0);
}

const isWholeMount = ({ trace }: Explanation): boolean =>
  trace.every((step) => step.stage !== "rules" || step.area === "");

function listRules({ rows, decided }: Stage, isWhole: boolean, all: boolean): Row[] {
  if (rows.length === 0) return [];
  const shown = rows.filter(({ tone, decides }) => all || tone === "hit" || decides);
  const rest = rows.length - shown.length;
  return [
    ...(isWhole && !all ? [] : [["area", decided, ""]]),
    ...shown.map(({ cells }) => cells),
    ...(rest === 0 ? [] : [[`${rest} more ${rest === 1 ? "is" : "are"} at the default: --all shows them`]]),
  ];
}

/**
 * What of an explanation helps with some differences: how the file was found, and what set the fields that differ. Ends with
 * the reason, and for an error with its most likely causes and what to do.
 */
export function toShortBlocks(explanation: Explanation, about: readonly string[]): Block[] {
  const wanted = new Set(about.map((name) => own(FIELDS_OF, name) ?? name.toLowerCase()));
  const { why, hints } = explanation;
  const fields = listFields(explanation)
    .filter(({ name }) => wanted.has(name.toLowerCase()))
    .map(toRow);
  return [
    ...toBlocks(explanation).filter(
      ({ title }) =>
        ["mount", "tried", "condition"].includes(title) ||
        (title === "range" && wanted.has("content-range")) ||
        (title === "coding" && (wanted.has("content-encoding") || wanted.has("vary"))),
    ),
    { title: "set by", rows: fields },
    { title: "why", rows: [[why]] },
    ...hints.slice(0, 2).map((hint, index) => ({ title: index === 0 ? "fix" : "or", rows: [[hint]] })),
  ].filter(({ rows }) => rows.length > 0);
}

const FIELDS_OF: Readonly<Record<string, string>> = {
  "media type": "content-type",
  charset: "content-type",
  caching: "cache-control",
  coding: "content-encoding",
  redirect: "location",
};

/** Why an expected field is not there. */
const tellUndated = ({ trace }: Explanation): Row[] =>
  trace.flatMap((step) =>
    step.stage === "undated" ? [["Last-Modified", "not sent", step.sealed ? SEALED : FIXED]] : [],
  );
const SEALED = "the site is sealed: the digest of the bytes says which version it is";
const FIXED = "a tool set the file's time, so it says nothing of the content";

const listFields = ({ trace }: Explanation): FieldLine[] => trace.filter((step) => step.stage === "field");
const toRow = ({ name, value, because }: FieldLine): Row => [name, value, because];
