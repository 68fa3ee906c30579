import type * as z from "zod";
import type { Mount } from "../core/rules/mount.js";

/** A value that the configuration says, and where it does. */
export interface Said<Value> {
  readonly value: Value;
  /** "default", "site", "mounts[0]", `mounts[0].areas["/records"]`. */
  readonly where: string;
}

/** What is found at start: a sentence to print, or one that stops it since nothing could ever come of the rule. */
export interface Finding {
  readonly severity: "warning" | "error";
  readonly text: string;
}

/** Where a rule is said, for its start check. */
export interface InspectedPlace {
  readonly mount: Mount;
  /** The area it is said for; `""` is the whole mount. */
  readonly area: string;
  /** How the place is named: `mounts[0].areas["/records"]`. */
  readonly where: string;
}

/** What every rule says of itself; `innermost` and `addsUp` make a whole rule of it. */
interface RuleParts<Scope extends "site" | "mount", InFile extends z.ZodType, Compiled> {
  /** A sentence for editors and the documentation: what the rule does. */
  readonly description: string;
  /** "site": may be said once for all mounts, too. */
  readonly scope: Scope;
  /** The value as a configuration file holds it. */
  readonly schema: InFile;
  /** The value when nobody says it, as it would be written. */
  readonly default: z.input<InFile>;
  /** How the default reads in the documentation, where its own spelling would not do. */
  readonly defaultInWords?: string;
  /** What is in force, in words; `""` for nothing. */
  readonly explain: (compiled: Compiled) => string;
  /** Looks at one place where the rule is said, at start. */
  readonly inspect?: (
    value: z.output<InFile>,
    place: InspectedPlace,
  ) => readonly Finding[] | Promise<readonly Finding[]>;
  /** Looks at a whole mount under the rules in force, at start. */
  readonly inspectMount?: (mount: Mount) => Promise<readonly Finding[]>;
}

/** A configuration rule: one key of a mount, of an area and, with the scope "site", of the whole site. */
export interface Rule<
  Scope extends "site" | "mount",
  InFile extends z.ZodType,
  InCode extends z.ZodType,
  Compiled,
> extends RuleParts<Scope, InFile, Compiled> {
  /** The value as code holds it, where code can say more than a file. */
  readonly schemaInCode: InCode;
  /** Whether the innermost place that says it decides, or all of them together. */
  readonly inheritance: "innermost" | "adds up";
  /** Compiles what the layers say, the outermost first; there is at least one, the default. */
  readonly compile: (said: readonly Said<z.output<InCode>>[]) => Compiled;
}

/** Makes a rule of which the innermost place that says it decides. */
export function innermost<
  const Scope extends "site" | "mount",
  InFile extends z.ZodType,
  Compiled,
  InCode extends z.ZodType = InFile,
>(
  rule: RuleParts<Scope, InFile, Compiled> & {
    readonly schemaInCode?: InCode;
    readonly compile: (value: z.output<InCode>, where: string) => Compiled;
  },
): Rule<Scope, InFile, InCode, Compiled> {
  return {
    ...rule,
    schemaInCode: rule.schemaInCode ?? (rule.schema as unknown as InCode),
    inheritance: "innermost",
    compile(said) {
      const { value, where } = said.at(-1)!;
      return rule.compile(value, where);
    },
  };
}

/** Makes a rule that adds up: an inner place adds to what encloses it. */
export function addsUp<const Scope extends "site" | "mount", InFile extends z.ZodType, Compiled>(
  rule: RuleParts<Scope, InFile, Compiled> & {
    readonly compile: (said: readonly Said<z.output<InFile>>[]) => Compiled;
  },
): Rule<Scope, InFile, InFile, Compiled> {
  return { ...rule, schemaInCode: rule.schema, inheritance: "adds up" };
}
