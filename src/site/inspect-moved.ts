import type { Finding } from "../config/rule.js";
import { releasePlan } from "../core/answer/plan.js";
import { lookAt } from "../core/resolve/look.js";
import { respond } from "../core/respond.js";
import { type AddressRule, formatAddress, MovedAddresses } from "../core/rules/moved.js";
import type { CompiledSite } from "../core/site.js";

const NO_RULES = new MovedAddresses([]);
const NAVIGATION = { accept: "text/html,*/*;q=0.8", "sec-fetch-mode": "navigate" };

/**
 * Asks the site for the old and the new address of each rule: an old one where something answers hides its rule, and a new one should
 * answer, at once. Asks for one after another.
 */
export async function inspectMoved(site: CompiledSite): Promise<Finding[]> {
  const withoutRules: CompiledSite = { ...site, moved: NO_RULES };
  const findings: Finding[] = [];
  for (const rule of site.moved.rules) {
    const old = await ask(withoutRules, addressOf(rule));
    // Rules come before the app shell, which answers whatever is missing.
    if (old.status < 400 && old.code !== "app-shell") findings.push(warn(rule, hiddenBy(rule, old)));
    else if (rule.to?.kind === "here") findings.push(...(await inspectTarget(site, rule)));
  }
  return findings;
}

const warn = ({ label }: AddressRule, text: string): Finding => ({
  severity: "warning",
  text: `${label}: ${text}`,
  key: label,
});

function hiddenBy({ folder }: AddressRule, { file, code }: Asked): string {
  const what = file ?? (code === "listing" ? "a listing" : "a redirect of the site itself");
  return folder
    ? `${what} answers at the folder's own address; the rule only applies to missing addresses below it. Leave the folder out, or name the addresses one by one.`
    : `${what} answers there, so the rule never applies; leave the rule out, or remove the file.`;
}

async function inspectTarget(site: CompiledSite, rule: AddressRule): Promise<Finding[]> {
  const { folder, to } = rule;
  if (to?.kind !== "here") return [];
  const address = formatAddress(to.path, to.slash);
  const found = await ask(site, address);
  if (found.status >= 300 && found.status < 400) {
    const next = new URL(found.location ?? "", `http://site.invalid${address}`);
    const shown = next.host === "site.invalid" ? next.pathname + next.search : next.href;
    return [
      warn(
        rule,
        `leads to ${address}, which leads on to ${shown}; write that one, so that visitors are redirected once.`,
      ),
    ];
  }
  if (found.status < 400 || (folder && (await isFolder(site, to.path)))) return [];
  return [
    warn(
      rule,
      `leads to ${address}, which is answered with ${found.status}, unless your application answers there; write the address where it is now.`,
    ),
  ];
}

interface Asked {
  readonly status: number;
  readonly code: string;
  readonly file: string | undefined;
  readonly location: string | undefined;
}

async function ask(site: CompiledSite, target: string): Promise<Asked> {
  const answer = await respond(site, { method: "HEAD", target, headers: NAVIGATION });
  releasePlan(answer);
  if (answer.kind === "pass") return { status: 404, code: "pass", file: undefined, location: undefined };
  const { status, reason, file, fields } = answer;
  return { status, code: reason.code, file, location: fields.get("Location") };
}

const addressOf = ({ from, folder }: AddressRule): string => formatAddress(from, folder);

async function isFolder(site: CompiledSite, path: string): Promise<boolean> {
  const match = site.mounts.find(path);
  if (match === undefined) return false;
  const inside = match.length === 0 ? path : path.slice(match.length + 1);
  return (await lookAt(match.value.source, inside)) === "directory";
}
