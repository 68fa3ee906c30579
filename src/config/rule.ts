import type * as z from "zod";
import type { Mount } from "../core/rules/mount.js";
import type { Compiler } from "./compiler.js";
import type { Told } from "./site-error.js";

/** What is found at start: a sentence to print, or one that stops it since nothing could ever come of the rule. */
export interface Finding extends Told {
  readonly severity: "warning" | "error";
}

/** Where a rule is said, for its start check. */
export interface InspectedPlace {
  readonly mount: Mount;
  /** The area it is said for; `""` is the whole mount. */
  readonly area: string;
  /** How the place is named: `mounts[0].areas["/records"]`. */
  readonly where: string;
}

/** What a rule says of itself besides. */
interface RuleParts<Scope extends "site" | "mount", InFile extends z.ZodType, Compiled> {
  /** A sentence for editors and the documentation: what the rule does. */
  readonly description: string;
  /** A value as it may stand behind the key in YAML, for messages and the documentation. */
  readonly example: string;
  /** "site": may be said once for all mounts, too. */
  readonly scope: Scope;
  /** The value as a configuration file holds it. */
  readonly schema: InFile;
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

/** A compiler of the values that a schema lets through; its default is one of its own values. */
type CompilerFor<Schema extends z.ZodType, Compiled> = Omit<
  Compiler<z.output<Schema>, Compiled>,
  "default"
> & {
  readonly default: unknown;
};

/** A configuration rule: one key of a mount, of an area and, with the scope "site", of the whole site. */
export interface Rule<
  Scope extends "site" | "mount",
  InFile extends z.ZodType,
  InCode extends z.ZodType,
  Compiled,
> extends RuleParts<Scope, InFile, Compiled>,
    CompilerFor<InCode, Compiled> {
  /** The value as code holds it, where code can say more than a file. */
  readonly schemaInCode: InCode;
}

/** Makes a whole rule of its compiler and of what is said of it. */
export function defineRule<
  const Scope extends "site" | "mount",
  InFile extends z.ZodType,
  Compiled,
  InCode extends z.ZodType = InFile,
>(
  rule: RuleParts<Scope, InFile, Compiled> &
    CompilerFor<NoInfer<InCode>, Compiled> & { readonly schemaInCode?: InCode },
): Rule<Scope, InFile, InCode, Compiled> {
  return { ...rule, schemaInCode: rule.schemaInCode ?? (rule.schema as unknown as InCode) };
}
