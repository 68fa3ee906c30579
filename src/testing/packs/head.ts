import { checkStatus } from "../checks/expectation.js";
import { compileFollowUp, emptyBody } from "../checks/follow-ups.js";
import { again, makeCase, type Pack, pickByKind, withFollowUps } from "./pack.js";

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
    makeCase(
      "an address that nothing is at, with HEAD",
      { method: "HEAD", path: sample.missingPath, headers: { Accept: "*/*" } },
      [checkStatus([sample.missing.status]), emptyBody],
      "RFC 9110 §9.3.2: an error has no body either",
    ),
  ];
};
