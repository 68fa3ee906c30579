import type { Question } from "../ask/ask.js";
import type { Case } from "../case.js";
import type { Check } from "../checks/check.js";
import { readText } from "../checks/content.js";
import type { Sample } from "../discover/sample.js";
import { demand, get, makeCase, type Pack, skipCase } from "./pack.js";

/** RFC 9110 §9: what a site of files answers to methods that are not for reading. */
export const methods: Pack = (sample) => {
  const path = chooseFile(sample);
  return [...askOnly(path), ...WRITING.map((method) => askToWrite(method, path, sample)), askUnknown(path)];
};

const WRITING = ["POST", "PUT", "DELETE", "PATCH"] as const;
/** No resource has it: a server that heeds conditions does nothing (RFC 9110 §13.1.1). */
const SAFETY = { "If-Match": '"no-such-tag-4f1d"' };

// A page may have a form behind it; a style sheet or a picture hardly.
function chooseFile({ resources }: Sample): string {
  const file = resources.find(({ kind, path }) => kind !== "document" && !path.includes("?"));
  return file?.path ?? resources[0]?.path ?? "/";
}

function askToWrite(method: string, path: string, { mayWrite }: Sample): Case {
  const name = `${path} with ${method}`;
  const question: Question = {
    method,
    path,
    headers: { ...SAFETY },
    ...(method !== "DELETE" && { body: "" }),
  };
  if (!mayWrite)
    return skipCase(
      name,
      `the server is on another machine; --methods sends ${method} ${path} with ${Object.entries(SAFETY).flat().join(": ")} and no content`,
    );
  const refused = demand(method, "a refusal, such as 405 with Allow", ({ reply: { status, headers } }) => {
    if (status === 412) return `412: ${method} would have worked without the If-Match that was sent`;
    if (status === 405)
      return headers.allow === undefined ? "405 without Allow, which names what is allowed" : undefined;
    if (status >= 500 && status !== 501) return `${status}: it fails`;
    return status >= 400 || status === 501 ? undefined : `${status}: the server does it, or says so`;
  });
  return makeCase(name, question, [refused], "RFC 9110 §9.1, §15.5.6: files are for reading");
}

function askUnknown(path: string): Case {
  const check = demand("NOSUCH", "a refusal, such as 501 or 405", ({ reply: { status } }) => {
    if (status >= 400 && (status < 500 || status === 501)) return undefined;
    return status >= 500
      ? `${status}: an unknown method makes the server fail`
      : `${status}, for an unknown method`;
  });
  return makeCase(
    `${path} with an unknown method`,
    { ...get(path), method: "NOSUCH" },
    [check],
    "RFC 9110 §9.1",
  );
}

const MARK = "x-epistyle-mark";

// RFC 9110 §9.2.1: these are safe everywhere.
function askOnly(path: string): Case[] {
  const says: Check = demand("Allow", "the methods, with GET, if OPTIONS is answered", ({ reply }) => {
    const { status, headers } = reply;
    if (status >= 500 && status !== 501) return `${status}: OPTIONS fails`;
    if (status >= 300) return undefined;
    const { allow } = headers;
    if (allow === undefined) return `nothing, with ${status} to OPTIONS`;
    const named = allow.split(",").map((one) => one.trim());
    const writes = named.find((one) => ["PUT", "DELETE", "PATCH"].includes(one));
    if (writes !== undefined) return `${allow}: ${writes} is allowed, so anyone may write`;
    return named.includes("GET") ? undefined : allow;
  });
  const answers = demand("OPTIONS *", "an answer, and no failure (5xx)", ({ reply: { status } }) =>
    status >= 500 && status !== 501 ? String(status) : undefined,
  );
  const noEcho = demand("TRACE", "a refusal, such as 405", ({ reply }) => {
    const { text = "" } = readText(reply) as { text?: string };
    const isEcho = text.toLowerCase().includes(MARK);
    return reply.status < 300
      ? `${reply.status}${isEcho ? ", with the request's own fields in the answer" : ""}`
      : undefined;
  });
  return [
    makeCase(`${path} with OPTIONS`, { ...get(path), method: "OPTIONS" }, [says], "RFC 9110 §9.3.7, §10.2.1"),
    makeCase("OPTIONS *", { ...get("*"), method: "OPTIONS" }, [answers], "RFC 9110 §9.3.7, RFC 9112 §3.2.4"),
    makeCase(
      `${path} with TRACE`,
      { ...get(path, { [MARK]: "given back" }), method: "TRACE" },
      [noEcho],
      "RFC 9110 §9.3.8: it returns fields that scripts must not see",
    ),
  ];
}
