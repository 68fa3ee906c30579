import type { Reply } from "./ask.js";
import type { Expectation } from "./format.js";

/** One thing that is not as expected. */
export interface Difference {
  /** What it is about: `status`, `media type`, a header field's name, `body`. */
  readonly about: string;
  readonly expected: string;
  readonly got: string;
}

const NOTHING = "nothing";

/** Holds a reply against an expectation: every difference, in the order of the format. */
export function compareReply(expect: Expectation, reply: Reply): Difference[] {
  const differences: Difference[] = [];
  const hold = (about: string, expected: string, got: string | undefined, same: boolean): void => {
    if (!same) differences.push({ about, expected, got: got ?? NOTHING });
  };

  if (expect.status !== undefined) {
    hold("status", String(expect.status), String(reply.status), expect.status === reply.status);
  }
  const contentType = reply.headers["content-type"];
  if (expect.mediaType !== undefined) {
    const got = contentType?.split(";")[0]?.trim().toLowerCase();
    hold("media type", expect.mediaType, got, got === expect.mediaType.toLowerCase());
  }
  if (expect.charset !== undefined) {
    const got = /;\s*charset="?([^";\s]+)/i.exec(contentType ?? "")?.[1];
    hold("charset", expect.charset, got, got?.toLowerCase() === expect.charset.toLowerCase());
  }
  for (const [name, wanted] of Object.entries(expect.headers ?? {})) {
    const got = reply.headers[name.toLowerCase()];
    if (typeof wanted === "string") hold(name, wanted, got, got === wanted);
    else if ("present" in wanted) {
      hold(name, wanted.present ? "any value" : NOTHING, got, (got !== undefined) === wanted.present);
    } else {
      hold(
        name,
        `a match of /${wanted.matches}/`,
        got,
        got !== undefined && new RegExp(wanted.matches, "u").test(got),
      );
    }
  }
  for (const text of [expect.body?.contains ?? []].flat()) {
    const body = new TextDecoder().decode(reply.body);
    hold("body", `a text with ${JSON.stringify(text)}`, excerpt(body), body.includes(text));
  }
  return differences;
}

function excerpt(body: string): string {
  if (body === "") return "an empty body";
  const start = body.replace(/\s+/g, " ").trim();
  const shown = start.length > 80 ? `${start.slice(0, 77)}...` : start;
  return `${JSON.stringify(shown)} (${body.length} characters)`;
}
