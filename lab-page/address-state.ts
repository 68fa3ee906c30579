import type { LabQuestion } from "../src/lab/shapes.js";

/** What of the page stands in its address, so that it can be linked to. */
export interface AddressState {
  readonly question: LabQuestion;
  /** The stage that is open. */
  readonly stage: string;
  readonly side: Side;
}

export type Side = "configuration" | "expectations" | "requests";
const SIDES: readonly Side[] = ["configuration", "expectations", "requests"];

export function readAddress(hash: string): AddressState {
  const given = new URLSearchParams(hash.replace(/^#/, ""));
  const side = given.get("side") as Side;
  const headers: Record<string, string> = {};
  for (const line of given.getAll("field")) {
    const at = line.indexOf(":");
    if (at > 0) headers[line.slice(0, at).trim()] = line.slice(at + 1).trim();
  }
  return {
    question: {
      method: given.get("method") ?? "GET",
      target: given.get("target") ?? "/",
      as: given.get("as") ?? "navigation",
      behind: given.has("behind"),
      headers,
    },
    stage: given.get("stage") ?? "",
    side: SIDES.includes(side) ? side : "configuration",
  };
}

export function writeAddress({ question, stage, side }: AddressState): string {
  const { method, target, as, behind, headers } = question;
  const parts = new URLSearchParams();
  if (method !== "GET") parts.set("method", method);
  parts.set("target", target);
  if (as !== "navigation") parts.set("as", as);
  if (behind) parts.set("behind", "");
  for (const [name, value] of Object.entries(headers)) parts.append("field", `${name}: ${value}`);
  if (stage !== "") parts.set("stage", stage);
  if (side !== "configuration") parts.set("side", side);
  return `#${parts.toString().replaceAll("%2F", "/")}`;
}
