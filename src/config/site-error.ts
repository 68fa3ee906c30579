import { shortenStack } from "./short-stack.js";

/** A configuration that cannot be used. The message holds one sentence a problem, a line each. */
export class SiteError extends Error {
  override readonly name = "SiteError";
  declare readonly problems: readonly string[];

  constructor(problems: readonly string[]) {
    super(problems.join("\n"));
    // The message has them already.
    Object.defineProperty(this, "problems", { value: problems, enumerable: false });
    shortenStack(this);
  }
}
