import type { Reference } from "../../reading/pages/references.js";
import type { SurveyContext, SurveyedFile } from "../survey-context.js";

/** A host that means the visitor's own machine, or none that visitors can reach (RFC 6761 §6.3, RFC 1918 §3). */
const OWN_MACHINE =
  /^https?:\/\/(?:localhost|[\w-]+\.localhost|127\.\d+\.\d+\.\d+|0\.0\.0\.0|\[::1?\])(?=[:/])/i;

/** Reports a reference to another host that will not work for visitors. */
export function reportOtherPlaces(
  context: SurveyContext,
  file: SurveyedFile,
  { url, element }: Reference,
): void {
  const isLink = element === "a" || element === "area";
  const shown = url.slice(0, 200);
  if (url.startsWith("file:") || OWN_MACHINE.test(url)) {
    const where = url.startsWith("file:")
      ? "a file of the visitor's own machine"
      : "the visitor's own machine";
    context.reportCause(
      isLink ? "link-to-own-machine" : "loads-from-own-machine",
      file,
      new URL(url).origin,
      {
        reason: `It ${isLink ? "links to" : "loads"} ${shown}: that is ${where}.`,
        fix: "Write an address of the site, relative to the page.",
      },
    );
  } else if (url.startsWith("http://") && !isLink)
    // RFC 6797 §7 aside: a page that came over TLS may not load what comes in clear.
    context.reportCause("insecure-reference", file, url, {
      reason: `It loads ${shown}, which browsers refuse if the page itself came over https:.`,
      fix: shown.replace(/^http:/, "https:"),
    });
}
