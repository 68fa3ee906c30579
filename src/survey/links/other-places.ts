import type { Reference } from "../../reading/pages/references.js";
import type { SurveyContext, SurveyedFile } from "../survey-context.js";

/** A host that means the visitor's own machine (RFC 6761 §6.3). */
const OWN_MACHINE =
  /^https?:\/\/(?:localhost|[\w-]+\.localhost|127\.\d+\.\d+\.\d+|0\.0\.0\.0|\[::1?\])(?=[:/])/i;

/** One that only some networks have (RFC 1918 §3, RFC 6762 §3). */
const OWN_NETWORK =
  /^https?:\/\/(?:10\.\d+\.\d+\.\d+|192\.168\.\d+\.\d+|172\.(?:1[6-9]|2\d|3[01])\.\d+\.\d+|[\w.-]+\.(?:local|internal|lan))(?=[:/])/i;

/** Reports a reference to another host that will not work for visitors. */
export function reportOtherPlaces(
  context: SurveyContext,
  file: SurveyedFile,
  { url, element }: Reference,
): void {
  const isLink = element === "a" || element === "area";
  const shown = url.slice(0, 200);
  if (url.startsWith("file:") || OWN_MACHINE.test(url) || OWN_NETWORK.test(url)) {
    const where = url.startsWith("file:")
      ? "a file of the visitor's own machine"
      : OWN_MACHINE.test(url)
        ? "the visitor's own machine"
        : "a machine of the visitor's own network, if there is one";
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
