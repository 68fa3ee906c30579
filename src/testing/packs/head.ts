import type { Case } from "../case.js";
import { checkStatus } from "../checks/expectation.js";
import { compileFollowUp, emptyBody } from "../checks/follow-ups.js";
import { again, get, makeCase, type Pack, pickByKind, withFollowUps } from "./pack.js";

/** RFC 9110 §9.3.2: HEAD sends the fields that GET would send, and no body. */
export const head: Pack = (sample) => {
  const follow = [compileFollowUp("head")];
  const whole = [checkStatus([200])];
  return [
    ...pickByKind(sample, 8).map((one) =>
      withFollowUps(makeCase(`${one.path} with HEAD`, one.question, whole, "RFC 9110 §9.3.2"), follow),
    ),
    ...pickByKind(sample, 2, (one) => one.reply.headers.vary !== undefined).map((one) =>
      withFollowUps(
        makeCase(
          `${one.path} with HEAD, in a coding`,
          again(one, { "Accept-Encoding": "gzip" }),
          whole,
          "RFC 9110 §9.3.2: the fields of the form that GET would send",
        ),
        follow,
      ),
    ),
    ...pickByKind(sample, 2, (one) => one.reply.headers.etag !== undefined).map((one) =>
      makeCase(
        `${one.path} with HEAD, asked with its entity tag`,
        { ...again(one, { "If-None-Match": one.reply.headers.etag! }), method: "HEAD" },
        [checkStatus([304])],
        "RFC 9110 §13.1.2: HEAD evaluates conditions like GET",
      ),
    ),
    ...sample.directories
      .filter((path) => path !== "/")
      .slice(0, 1)
      .map((path) => compareStatus(path.slice(0, -1))),
    makeCase(
      "a missing address, with HEAD",
      { method: "HEAD", path: sample.missingPath, headers: { Accept: "*/*" } },
      [checkStatus([sample.missing.status]), emptyBody],
      "RFC 9110 §9.3.2: an error has no body then either",
    ),
  ];
};

// A redirect, mostly: asked with GET first, because it may be none.
function compareStatus(path: string): Case {
  return withFollowUps(makeCase(`${path} with HEAD`, get(path), [], "RFC 9110 §9.3.2"), [
    {
      name: "HEAD",
      plan: ({ question, reply }) => [
        {
          name: "asked with HEAD",
          question: { ...question, method: "HEAD" },
          checks: [checkStatus([reply.status]), emptyBody],
        },
      ],
    },
  ]);
}
