/**
 * Takes the frames inside this package and inside the platform out of an error that is about what somebody wrote: what is left leads to
 * their own line.
 */
export function shortenStack(error: Error): void {
  const { stack } = error;
  if (stack === undefined) return;
  const own = import.meta.url.replace(/\/(?:dist|\.cache\/build|src)\/.*$/, "/");
  const frames = stack
    .split("\n")
    .filter((line) => /^\s+at /.test(line) && !line.includes(own) && !line.includes("node:"));
  error.stack = [`${error.name}: ${error.message}`, ...frames].join("\n");
}
