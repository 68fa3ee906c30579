import { mkdirSync, mkdtempSync, rmSync, symlinkSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { PROBLEMS } from "./problems.mjs";
import { RIGHT_TREES } from "./right-trees.mjs";

/** What a survey found in one tree, as "code address". */
async function surveyTree(surveySite, tree, rules, under) {
  const folder = mkdtempSync(join(tmpdir(), "epistyle-survey-"));
  try {
    write(join(folder, "site"), tree);
    const mounts = [{ folder: join(folder, "site"), ...rules }];
    if (under !== undefined) {
      write(join(folder, "under"), under);
      mounts.push({ at: "/hides", folder: join(folder, "under") });
    }
    const { findings } = await surveySite({ mounts });
    return findings;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

function write(folder, tree) {
  for (const [path, content] of Object.entries(tree)) {
    const full = join(folder, path);
    mkdirSync(dirname(full), { recursive: true });
    if (typeof content === "object" && "link" in content) symlinkSync(content.link, full);
    else {
      const { content: bytes = content, seconds = 1_790_000_000 } = Object(content);
      writeFileSync(full, bytes);
      utimesSync(full, seconds, seconds);
    }
  }
}

/**
 * Holds a survey against the bank: each planted problem must be found, by its code and at its address, and nothing else be said;
 * of right trees nothing.
 */
export async function runBank(surveySite) {
  const missed = [];
  const falseAlarms = [];
  for (const { what, code, address, tree, rules, beside, under } of PROBLEMS) {
    const findings = await surveyTree(surveySite, tree, rules, under);
    const isIt = (one) =>
      one.code === code &&
      (address === "*" || one.address === address || one.places?.some((place) => place.address === address));
    if (!findings.some(isIt)) missed.push(`${what}: ${code} at ${address}`);
    for (const one of findings)
      if (!isIt(one) && !beside.includes(one.code))
        falseAlarms.push(`${what}: ${one.code} at ${one.address}: ${one.reason}`);
  }
  for (const { what, tree, rules } of RIGHT_TREES)
    for (const one of await surveyTree(surveySite, tree, rules))
      falseAlarms.push(`${what}: ${one.code} at ${one.address}: ${one.reason}`);
  return { problems: PROBLEMS.length, rightTrees: RIGHT_TREES.length, missed, falseAlarms };
}
