// Writes the types of configurations and expectations out, from their schemas: so that editors show what each key does, and a project
// that uses the package needs no types of the schema's library.
import { existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { build } from "esbuild";
import { root, run } from "./setup.mjs";

const NOTE = "// Written by tools/build.mjs, from the schemas. Do not change it here.\n";
const SCHEMAS = join(root, ".cache/schemas");
const load = (path) => import(join(SCHEMAS, path));

/** Writes the files whose text is another one. They are not part of the repository. */
export async function writeTypes() {
  // The compiler needs the types, and these need the schemas.
  await build({
    entryPoints: [
      "config/schema",
      "config/rules",
      "testing/format/schema",
      "testing/format/schema-expectation",
    ].map((name) => join(root, "src", `${name}.ts`)),
    outbase: join(root, "src"),
    outdir: SCHEMAS,
    outExtension: { ".js": ".mjs" },
    bundle: true,
    splitting: true,
    format: "esm",
    platform: "node",
    packages: "external",
    logLevel: "warning",
  });
  const texts = {
    "src/config/config-types.ts": await makeConfigTypes(),
    "src/testing/format/expectation-types.ts": await makeExpectationTypes(),
  };
  const written = Object.entries(texts).filter(([name, text]) => !isWritten(name, text));
  for (const [name, text] of written) writeFileSync(join(root, name), text);
  const names = written.map(([name]) => name);
  if (names.length === 0) return;
  run(process.execPath, ["node_modules/@biomejs/biome/bin/biome", "format", "--write", ...names]);
  for (const [name, text] of written) writeFileSync(noteOf(name), text);
}

const noteOf = (name) => join(SCHEMAS, `${name.replaceAll("/", "-")}.txt`);

// The file itself is formatted.
function isWritten(name, text) {
  mkdirSync(SCHEMAS, { recursive: true });
  const note = noteOf(name);
  return existsSync(join(root, name)) && existsSync(note) && readFileSync(note, "utf8") === text;
}

async function makeConfigTypes() {
  const { siteSchema } = await load("config/schema.mjs");
  const { RULES, RULE_NAMES } = await load("config/rules.mjs");
  const { shape } = siteSchema.def;
  const mount = unwrap(shape.mounts).def.element.def.shape;
  const isRule = (name) => RULE_NAMES.includes(name);
  const keys = (of, wanted) => Object.fromEntries(Object.entries(of).filter(([name]) => wanted(name)));
  const write = new Writer({ areas: "Record<string, AreaConfig>" }, (name) => {
    const rule = RULES[name];
    if (rule === undefined) return "";
    return `Default: ${rule.defaultInWords?.replaceAll("`", "") ?? JSON.stringify(rule.default)}.`;
  });
  const shared = RULE_NAMES.filter((name) => RULES[name].scope === "site").map((name) =>
    JSON.stringify(name),
  );
  return `${NOTE}import type { ListingRenderer } from "../core/rules/listing.js";
import type { FileSource } from "../core/source.js";

/** Rules, as a mount or one of its areas says them. */
export interface AreaConfig ${write.group(keys(mount, isRule))}

/** A mount: what it serves and where, and its rules. */
export interface MountConfig extends AreaConfig ${write.group(keys(mount, (name) => !isRule(name)))}

/** The rules that may be said once for the whole site. */
export type SharedRules = Pick<AreaConfig, ${shared.join(" | ")}>;

/** A configuration: mounts, and what holds for all of them. */
export interface SiteConfig extends SharedRules ${write.group({ ...keys(shape, (name) => !isRule(name)), mounts: undefined }, { mounts: "MountConfig[]" })}

/** Any rules, said anywhere. */
export type RulesConfig = AreaConfig;
export type EarlierConfig = NonNullable<MountConfig["earlierReleases"]>;
`;
}

async function makeExpectationTypes() {
  const { expectationsSchema } = await load("testing/format/schema.mjs");
  const { expectation } = await load("testing/format/schema-expectation.mjs");
  const names = new Map([[expectation, "Expectation"]]);
  const plain = new Writer({}, () => "");
  const named = new Writer({}, () => "", names);
  return `${NOTE}
/** A value of JSON. */
export type Json = string | number | boolean | null | Json[] | { [key: string]: Json };

/** What an answer must be. */
export interface Expectation ${plain.group(expectation.def.shape)}

/** An expectations file, version 1. */
export interface ExpectationsFile ${named.group(expectationsSchema.def.shape)}
`;
}

class Writer {
  /** Types of keys that are written by hand. */
  #byKey;
  /** What is said of a key besides. */
  #more;
  #names;

  constructor(byKey, more, names = new Map()) {
    this.#byKey = byKey;
    this.#more = more;
    this.#names = names;
  }

  /** A group of keys, each with its comment. */
  group(shape, given = {}) {
    const lines = Object.entries(shape).map(([key, schema]) => {
      const type = given[key] ?? this.#byKey[key];
      const isOptional = schema?.def.type === "optional";
      const said = [describe(schema), this.#more(key)].filter(Boolean).join(" ");
      const comment = said === "" ? "" : `/** ${said.replaceAll("*/", "*\\/")} */\n`;
      const name = /^[A-Za-z_$][\w$]*$/.test(key) ? key : JSON.stringify(key);
      return `${comment}${name}${isOptional ? "?" : ""}: ${type ?? this.type(schema)}${isOptional ? " | undefined" : ""};`;
    });
    return `{\n${lines.join("\n")}\n}`;
  }

  type(schema) {
    const name = this.#names.get(schema) ?? schema.meta()?.typeName;
    if (name !== undefined) return name;
    const { def } = schema;
    switch (def.type) {
      case "optional":
        return this.type(def.innerType);
      case "object":
        return this.group(def.shape);
      case "array":
        return `(${this.type(def.element)})[]`;
      case "union":
        return [...new Set(def.options.map((option) => this.type(option)))].join(" | ");
      case "record":
        return this.#record(def);
      case "enum":
        return Object.values(def.entries)
          .map((word) => JSON.stringify(word))
          .join(" | ");
      case "literal":
        return def.values.map((value) => JSON.stringify(value)).join(" | ");
      // A number that YAML makes of what looks like one is read as a text.
      case "pipe":
        return "string";
      case "lazy":
        return "Json";
      case "string":
      case "number":
      case "boolean":
        return def.type;
      default:
        throw new Error(
          `A schema of type ${def.type} has no type to be written: give it .meta({ typeName }).`,
        );
    }
  }

  #record({ keyType, valueType }) {
    const key = this.type(keyType);
    const value = this.type(valueType);
    return key === "string" ? `Record<string, ${value}>` : `Partial<Record<${key}, ${value}>>`;
  }
}

function unwrap(schema) {
  return schema.def.type === "optional" ? unwrap(schema.def.innerType) : schema;
}

function describe(schema) {
  if (schema === undefined) return "";
  return schema.description ?? (schema.def.type === "optional" ? describe(schema.def.innerType) : "");
}
