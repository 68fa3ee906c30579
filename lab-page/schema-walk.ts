/** As much of JSON Schema as the schemas of the package have. */
export interface Schema {
  readonly $ref?: string;
  readonly description?: string;
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly additionalProperties?: Schema | boolean;
  readonly items?: Schema;
  readonly anyOf?: readonly Schema[];
  readonly allOf?: readonly Schema[];
  readonly enum?: readonly unknown[];
  readonly const?: unknown;
  readonly type?: string | readonly string[];
  readonly examples?: readonly unknown[];
  readonly definitions?: Readonly<Record<string, Schema>>;
}

/** A key that may be written in a place. */
export interface OfferedKey {
  readonly name: string;
  readonly description: string;
}

/** The way to a place in a text: keys, and "-" for an item of a list. */
export type Path = readonly string[];

/** Reads a schema: what may be written at a path. A place that the schema does not know offers nothing. */
export class SchemaWalk {
  readonly #root: Schema;

  constructor(root: object) {
    this.#root = root as Schema;
  }

  keysAt(path: Path): OfferedKey[] {
    return this.#at(path).flatMap(({ properties = {} }) =>
      Object.entries(properties).map(([name, schema]) => ({ name, description: this.#describe(schema) })),
    );
  }

  /** Words and examples, as YAML in flow style. */
  valuesAt(path: Path): string[] {
    return this.#at(path).flatMap((schema) => [
      ...(schema.enum ?? []).map(writeFlow),
      ...(schema.const === undefined ? [] : [writeFlow(schema.const)]),
      ...(schema.type === "boolean" ? ["true", "false"] : []),
      ...(schema.examples ?? []).map(writeFlow),
    ]);
  }

  #at(path: Path): Schema[] {
    return path.reduce<Schema[]>(
      (schemas, key) =>
        schemas.flatMap(({ items, properties, additionalProperties: others }) => {
          const next =
            key === "-"
              ? items
              : ((properties !== undefined && Object.hasOwn(properties, key) ? properties[key] : undefined) ??
                (typeof others === "object" ? others : undefined));
          return next === undefined ? [] : this.#branches(next);
        }),
      this.#branches(this.#root),
    );
  }

  // A schema, and all that it refers to or is one of.
  #branches(schema: Schema): Schema[] {
    const { $ref, anyOf = [], allOf = [] } = schema;
    const referred = $ref === undefined ? [] : [this.#resolve($ref)];
    return [schema, ...[...referred, ...anyOf, ...allOf].flatMap((one) => this.#branches(one))];
  }

  #describe(schema: Schema): string {
    return this.#branches(schema).find(({ description }) => description !== undefined)?.description ?? "";
  }

  #resolve(ref: string): Schema {
    return this.#root.definitions?.[ref.slice(ref.lastIndexOf("/") + 1)] ?? {};
  }
}

// A word that YAML reads as itself stands without quotes.
function writeFlow(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(writeFlow).join(", ")}]`;
  if (typeof value === "object" && value !== null)
    return `{ ${Object.entries(value)
      .map(([key, one]) => `${writeFlow(key)}: ${writeFlow(one)}`)
      .join(", ")} }`;
  const isPlain = typeof value === "string" && /^[A-Za-z./][\w./-]*$/.test(value);
  return isPlain && !/^(?:true|false|null|yes|no|on|off)$/i.test(value as string)
    ? (value as string)
    : JSON.stringify(value);
}
