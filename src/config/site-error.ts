/** A configuration that cannot be used. The message holds one sentence a problem, a line each. */
export class SiteError extends Error {
  override readonly name = "SiteError";
  readonly problems: readonly string[];

  constructor(problems: readonly string[]) {
    super(problems.join("\n"));
    this.problems = problems;
  }
}
