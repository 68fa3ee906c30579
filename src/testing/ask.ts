import { readPlan } from "../adapters/in-process.js";
import { describeReason } from "../core/reason.js";
import type { Site } from "../site/open.js";

/** A request of a case. Header names as written. */
export interface Question {
  readonly method: string;
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
}

/** What came back, as plain data. Header names in lower case; several lines of one field are joined. */
export interface Reply {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: Uint8Array;
  /** Why, in words; known in process only. */
  readonly why: string | undefined;
}

/** Puts questions to a site, in process or over the network. `ask` rejects when there is no answer. */
export interface Asker {
  /** What is asked, for reports. */
  readonly about: string;
  ask(question: Question): Promise<Reply>;
  close(): Promise<void>;
}

/** Asks a site in this process: no port, the same code up to the last header. */
export function askSite(site: Site, about: string): Asker {
  return {
    about,
    async ask({ method, path, headers }) {
      const answer = await site.respond({ method, target: path, headers });
      if (answer.kind === "pass")
        return { status: 404, headers: {}, body: new Uint8Array(0), why: "passed on" };
      const fields = new Map<string, string>();
      for (let i = 0; i < answer.fields.length; i += 2) {
        const name = answer.fields[i]!.toLowerCase();
        const before = fields.get(name);
        fields.set(
          name,
          before === undefined ? answer.fields[i + 1]! : `${before}, ${answer.fields[i + 1]!}`,
        );
      }
      const body = await readPlan(answer);
      const why = `${answer.file ?? "no file"} (${describeReason(answer.reason)})`;
      return { status: answer.status, headers: Object.fromEntries(fields), body, why };
    },
    async close() {},
  };
}
