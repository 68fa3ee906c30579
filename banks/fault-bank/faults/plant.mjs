// How faults are planted: each gives what startServer takes.

const pathOf = (target) => target.replace(/^http:\/\/[^/]*/, "").replace(/[?#].*$/s, "");

/** Changes the answers to some paths. */
export const on = (pattern, change) => ({
  after: (answer, request) => (pattern.test(pathOf(request.target)) ? change(answer, request) : undefined),
});

/** Changes the answers with some status. */
export const withStatus = (status, change) => ({
  after: (answer, request) => (answer.status === status ? change(answer, request) : undefined),
});

/** Sets a field, or takes it away, where a file answers. */
export const field = (pattern, name, value) =>
  on(pattern, (answer) => {
    if (answer.status < 300 || answer.status === 304)
      answer.fields[name] = typeof value === "function" ? value(answer.fields[name]) : value;
  });

/** Changes what is asked before it is answered. */
export const asked = (before) => ({ before });

/** Serves other files. */
export const files = (changes, style) => ({ changes, style });

/** Answers some paths with something else. */
export const answer = (pattern, status, body = "", fields = {}) =>
  on(pattern, (one) => {
    Object.assign(one, { status, body: Buffer.from(body) });
    one.fields = {
      "Content-Type": "text/html; charset=utf-8",
      "Cache-Control": "no-cache",
      "X-Content-Type-Options": "nosniff",
      ...fields,
    };
  });

/** Answers what is not there with something else. */
export const missing = (change) => withStatus(404, change);

export const FRONT =
  "<!doctype html><html lang=en><meta charset=utf-8><title>Larkholm</title><p>Welcome to the front page.";
