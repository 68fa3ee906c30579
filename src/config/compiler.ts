import type { Origin } from "../core/text/origin.js";

/** A value that the configuration says, and where it does. */
export interface Said<Value> {
  readonly value: Value;
  readonly where: Origin;
}

/** How what is said becomes what the core works with: all of a rule that a site needs once its configuration was checked. */
export interface Compiler<Value, Compiled> {
  /** The value when nobody says it, as it would be written. */
  readonly default: Value;
  /** Whether the innermost place that says it decides, or all of them together. */
  readonly inheritance: "innermost" | "adds up";
  /** Compiles what the layers say, the outermost first; there is at least one, the default. */
  readonly compile: (said: readonly Said<Value>[]) => Compiled;
}

/** A compiler for a rule of which the innermost place that says it decides. */
export function innermost<Value, Compiled>(rule: {
  readonly default: NoInfer<Value>;
  readonly compile: (value: Value, where: Origin) => Compiled;
}): Compiler<Value, Compiled> {
  return {
    default: rule.default,
    inheritance: "innermost",
    compile(said) {
      const { value, where } = said.at(-1)!;
      return rule.compile(value, where);
    },
  };
}

/** A compiler for a rule that adds up: an inner place adds to what encloses it. */
export function addsUp<Value, Compiled>(rule: {
  readonly default: NoInfer<Value>;
  readonly compile: (said: readonly Said<Value>[]) => Compiled;
}): Compiler<Value, Compiled> {
  return { ...rule, inheritance: "adds up" };
}

/** A compiler for a rule whose value is used as it is written. */
export function asSaid<Value>(value: NoInfer<Value>): Compiler<Value, Value> {
  return innermost({ default: value, compile: (said: Value) => said });
}
