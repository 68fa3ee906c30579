import * as z from "zod";
import { formatPath } from "../../core/request/target.js";
import type { AppShell } from "../../core/rules/rules.js";
import { inspectDocument } from "../documents.js";
import { type Finding, type InspectedPlace, innermost } from "../rule.js";
import { documentPath, folderPath, isWithin, trimSlashes } from "../values.js";

// What the document loads must be found from every address it answers.
async function inspectAddresses(written: string, { mount, area, where }: InspectedPlace): Promise<Finding[]> {
  const file = trimSlashes(written);
  // Loaded for sites that have an application: others start quicker without it.
  const { adviseOnRelative, findRelativeIn } = await import("../relative-addresses.js");
  const addresses = await findRelativeIn(mount.source, file);
  if (addresses.length === 0) return [];
  const folder = formatPath(
    [mount.at, file]
      .filter(Boolean)
      .join("/")
      .replace(/[^/]*$/, ""),
  );
  const text = `${where}.appShell: ${file}${area === "" ? "" : ` of /${area}`} ${adviseOnRelative(addresses, `/${folder}`)}.`;
  return [{ severity: "warning", text }];
}

export const appShell = innermost({
  description: "The document that answers a navigation which no file answers.",
  scope: "mount",
  schema: z.union([
    documentPath,
    z.literal(false),
    z.strictObject({
      file: documentPath,
      except: z.array(folderPath).optional().describe("Paths below which the shell does not answer."),
    }),
  ]),
  default: false,
  compile(shell): AppShell | undefined {
    if (shell === false) return undefined;
    if (typeof shell === "string") return { file: trimSlashes(shell), except: [] };
    return { file: trimSlashes(shell.file), except: (shell.except ?? []).map(trimSlashes) };
  },
  explain(shell) {
    if (shell === undefined) return "";
    const except = shell.except.map((path) => `/${path}`).join(", ");
    return `/${shell.file}${except === "" ? "" : `, except ${except}`}`;
  },
  async inspect(shell, place) {
    if (shell === false) return [];
    const { file, except = [] } = typeof shell === "string" ? { file: shell } : shell;
    const { area, where } = place;
    const useless = except
      .filter((one) => !isWithin(trimSlashes(one), area) && !isWithin(area, trimSlashes(one)))
      .map((one): Finding => {
        const text = `${where}.appShell.except: found "${one}", which never matches, since paths here begin with /${area}; write "/${area}${one}".`;
        return { severity: "warning", text };
      });
    const missing = await inspectDocument(file, "appShell", "deep links are not found", place);
    return [...missing, ...(missing.length > 0 ? [] : await inspectAddresses(file, place)), ...useless];
  },
});
