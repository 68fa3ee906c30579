import type { RuleName } from "../../config/rules.js";
import type { Answer } from "../../core/answer/plan.js";
import type { ReasonCode } from "../../core/explain/reason.js";

/** The stages of a request at which an answer can be decided, in their order. */
export type DecidingStage = "target" | "mount" | "method" | "file" | "form" | "conditions" | "range";

/** Where each reason is found, and which rules have a say in it. Every reason has its row: the compiler sees to it. */
const REASONS: Readonly<Record<ReasonCode, readonly [stage: DecidingStage, ...rules: RuleName[]]>> = {
  "several-hosts": ["target"],
  "not-a-path": ["target"],
  "bad-escape": ["target"],
  "control-character": ["target"],
  "encoded-slash": ["target"],
  backslash: ["target"],
  "dot-segment": ["target"],
  "outside-every-mount": ["mount"],
  "outside-stripped-prefix": ["mount"],
  options: ["method"],
  preflight: ["method", "crossOrigin"],
  "method-not-allowed": ["method"],
  "method-passed-on": ["method"],
  "exact-file": ["file"],
  "default-document": ["file", "defaultDocuments"],
  "implied-extension": ["file", "impliedExtensions"],
  "earlier-release": ["file"],
  "not-fingerprinted": ["file"],
  listing: ["file", "listing"],
  "app-shell": ["file", "appShell"],
  "missing-slash": ["file"],
  moved: ["file"],
  gone: ["file"],
  "long-address": ["file", "longAddresses"],
  "no-such-file": ["file"],
  "too-long": ["file"],
  "not-a-directory": ["file"],
  "name-differs": ["file"],
  "name-not-portable": ["file"],
  "link-leads-outside": ["file"],
  "link-not-followed": ["file"],
  "link-loop": ["file"],
  "empty-segment": ["file"],
  "slash-after-file": ["file"],
  withheld: ["file", "withheld"],
  special: ["file"],
  "no-permission": ["file"],
  "no-default-document": ["file", "defaultDocuments", "listing"],
  failed: ["file"],
  unsettled: ["file"],
  "not-sealed": ["file"],
  busy: ["file"],
  variant: ["form", "variants"],
  "not-modified": ["conditions"],
  "precondition-failed": ["conditions"],
  partial: ["range"],
  "range-unsatisfiable": ["range"],
};

/** The stage that decided an answer. */
export function findDecidingStage({ reason }: Answer): DecidingStage {
  return REASONS[reason.code][0];
}

/** The rules that had a say in how an answer was decided. */
export function listDecidingRules({ reason }: Answer): readonly string[] {
  const [, ...rules] = REASONS[reason.code];
  return [
    ...rules,
    ...(reason.shellRefused === undefined ? [] : ["appShell"]),
    ...(reason.whenMissing === undefined ? [] : ["whenMissing"]),
  ];
}
