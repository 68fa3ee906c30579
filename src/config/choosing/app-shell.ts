import * as z from "zod";
import { formatPath } from "../../core/request/target.js";
import { isWithin, trimSlashes } from "../paths.js";
import { defineRule, type Finding, type InspectedPlace } from "../rule.js";
import { documentPath, folderPath, pattern } from "../values.js";
import { appShellCompiler } from "./compile.js";
import { inspectDocument } from "./documents.js";

// What the document loads must be found from every address it answers.
async function inspectAddresses(written: string, { mount, area, where }: InspectedPlace): Promise<Finding[]> {
  const file = trimSlashes(written);
  // Loaded for sites that have an application: others start quicker without it.
  const { adviseOnRelative, findRelativeIn } = await import("./relative-addresses.js");
  const addresses = await findRelativeIn(mount.source, file);
  if (addresses.length === 0) return [];
  const folder = formatPath(
    [mount.at, file]
      .filter(Boolean)
      .join("/")
      .replace(/[^/]*$/, ""),
  );
  const text = `${where}.appShell: ${file}${area === "" ? "" : ` of /${area}`} ${adviseOnRelative(addresses, `/${folder}`)}.`;
  return [{ severity: "warning", text, key: `${where}.appShell`, isOfFiles: true }];
}

const schema = z.union([
  documentPath,
  z.literal(false),
  z.strictObject({
    file: documentPath,
    except: z
      .array(folderPath)
      .optional()
      .describe("Paths that the app shell does not answer, with everything below them."),
    routes: z
      .array(pattern)
      .min(1)
      .optional()
      .describe("Routes whose last name has a dot, such as /users/jane.doe: it is no extension there."),
  }),
]);

export const appShell = defineRule({
  ...appShellCompiler,
  description: "The document of a single-page application: it answers navigations if no file does.",
  example: "{ file: /index.html, except: [/api] }",
  scope: "mount",
  schema,
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
        const text = `${where}.appShell.except: found "${one}", which never matches, because paths here begin with /${area}; write "/${area}${one}".`;
        return { severity: "warning", text, key: `${where}.appShell.except` };
      });
    const missing = await inspectDocument(file, "appShell", "deep links are not found", place);
    return [...missing, ...(missing.length > 0 ? [] : await inspectAddresses(file, place)), ...useless];
  },
});
