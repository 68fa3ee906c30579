// Writes docs/reference.md: every key, command, function and reason, from the schemas, the program, the types and the code itself.
import { readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { parse } from "yaml";
import { PROGRAMS } from "./reference-code.mjs";
import { EXPECTATION, FILE, MOUNT, RULES as RULE_EXAMPLES, SITE } from "./reference-examples.mjs";
import { root } from "./setup.mjs";

const built = (path) => join(root, ".cache/build", path);
const load = (path) => import(built(path));
const cell = (text) => text.replaceAll("|", "\\|").replaceAll("\n", " ");
const code = (text) => `\`${text}\``;

/** The whole page. */
export async function makeReference() {
  return `# Reference

Made from the code by \`npm run docs\`; a test holds it against the code. How the keys work together is told in
[which file answers](choosing-a-file.md), [HTTP](http.md), [listings](listings.md) and [testing](testing.md).

## Configuration

${await configuration()}

## Expectations

${await expectations()}

## Commands

${await commands()}

## Functions and types

${functions()}

## Reasons

Each answer has a reason. \`explain\`, the log and the lab tell it in words; \`answer.reason.code\` is its code.

${await reasons()}
`;
}

async function configuration() {
  const { siteSchema, fileSchema } = await load("config/schema.js");
  const { RULES, RULE_NAMES } = await load("config/rules.js");
  const mount = inner(siteSchema.def.shape.mounts).def.element.def.shape;
  const rules = RULE_NAMES.map((name) => {
    const rule = RULES[name];
    const where = rule.scope === "site" ? "site, mount, area" : "mount, area";
    const inside =
      rule.inheritance === "adds up" ? "an area adds to what encloses it" : "the innermost place decides";
    const usual = rule.defaultInWords ?? code(JSON.stringify(rule.default));
    return entry({
      name,
      text: rule.description,
      facts: [`Where: ${where}; ${inside}.`, `Default: ${usual}.`],
      type: typeOf(inner(mount[name])),
      keys: keysOf(mount[name]),
      examples: [rule.example, RULE_EXAMPLES[name]],
      check: (value) => tell(fileSchema, { mounts: [{ folder: ".", [name]: value }] }),
    });
  });
  const mounts = Object.keys(mount).filter((name) => !RULE_NAMES.includes(name));
  const site = Object.keys(fileSchema.def.shape).filter((name) => !RULE_NAMES.includes(name));
  const others = (names, shape, examples, wrap) =>
    names.map((name) =>
      entry({
        name,
        text: describe(shape[name]),
        facts: examples[name] === undefined ? ["In code only."] : [],
        type: typeOf(inner(shape[name])),
        keys: [],
        examples: examples[name],
        check: (value) => tell(fileSchema, wrap(name, value)),
      }),
    );
  return joinAll([
    "### Of a mount",
    ...others(mounts, mount, MOUNT, (name, value) => ({ mounts: [{ folder: ".", [name]: value }] })),
    "### Of the configuration",
    ...others(site, fileSchema.def.shape, SITE, (name, value) => ({
      mounts: [{ folder: "." }],
      [name]: value,
    })),
    "### Rules",
    ...rules,
  ]);
}

async function expectations() {
  const { expectationsSchema } = await load("testing/format/schema.js");
  const { expectation } = await load("testing/format/schema-expectation.js");
  const file = Object.entries(expectationsSchema.def.shape).map(([name, schema]) =>
    entry({
      name,
      text: describe(schema),
      facts: [],
      type: typeOf(inner(schema)),
      keys: [],
      examples: FILE[name],
      check: (value) =>
        tell(expectationsSchema, {
          version: 1,
          cases: [{ request: "GET /", expect: { status: 200 } }],
          [name]: value,
        }),
    }),
  );
  const keys = Object.entries(expectation.def.shape).map(([name, schema]) =>
    entry({
      name,
      text: describe(schema),
      facts: [],
      type: typeOf(inner(schema)),
      keys: keysOf(schema),
      examples: EXPECTATION[name],
      check: (value) => tell(expectation, { [name]: value }),
    }),
  );
  return joinAll(["### Of the file", ...file, "### Of `expect`", ...keys]);
}

const joinAll = async (parts) => (await Promise.all(parts)).join("\n\n");

let problems;
/** What is said of a value: nothing where it is right. */
async function tell(schema, value) {
  problems ??= await load("config/problems.js");
  const result = problems.validate(schema, value);
  return result.ok ? [] : result.problems.map(problems.formatProblem);
}

async function commands() {
  const { makeProgram } = await load("cli/program.js");
  return makeProgram()
    .commands.map((command) => {
      const usage = command.registeredArguments
        .map((one) => (one.required ? `<${one.name()}>` : `[${one.name()}]`).replace(/[<[]{2}/, "["))
        .join(" ");
      const rows = command.options
        .filter(({ hidden }) => !hidden)
        .map((option) => {
          const choices = option.argChoices === undefined ? "" : ` One of ${option.argChoices.join(", ")}.`;
          const usual = ["string", "number"].includes(typeof option.defaultValue)
            ? code(option.defaultValueDescription ?? String(option.defaultValue))
            : "";
          const variable = option.envVar === undefined ? "" : ` Also from ${option.envVar}.`;
          return `| ${code(cell(option.flags))} | ${cell(option.description)}.${choices}${variable} | ${usual} |`;
        });
      const args = command.registeredArguments.map((one) => `- ${code(one.name())}: ${one.description}`);
      return [
        `### epistyle ${command.name()} ${usage}`.trim(),
        command.description(),
        ...(args.length > 0 ? [args.join("\n")] : []),
        ...(rows.length > 0
          ? [["| option | what it does | default |", "| --- | --- | --- |", ...rows].join("\n")]
          : []),
      ].join("\n\n");
    })
    .join("\n\n");
}

/** What can be imported, by entry. */
const ENTRIES = {
  epistyle: "index",
  "epistyle/node": "adapters/node",
  "epistyle/web": "adapters/web",
  "epistyle/testing": "testing/index",
  "epistyle/vitest": "testing/vitest",
  "epistyle/survey": "survey/index",
  "epistyle/store": "store/index",
  "epistyle/lab": "lab/index",
  "epistyle/vite": "vite/index",
  "epistyle/browser": "browser/index",
  "epistyle/browser/listings": "browser/listings",
  "epistyle/browser/pages": "browser/pages",
  "epistyle/browser/fingerprints": "browser/fingerprints",
};

function functions() {
  return Object.entries(ENTRIES)
    .map(([name, path]) => {
      const exported = exportsOf(built(`${path}.d.ts`));
      const program = PROGRAMS[name];
      for (const { exported: one, kind } of exported)
        if (kind === "function" && !new RegExp(`\\b${one}\\(`).test(program ?? ""))
          throw new Error(`tools/reference-code.mjs: the program of ${name} does not call ${one}.`);
      const rows = exported.map(
        ({ exported, kind, signatures, doc }) =>
          `| ${code(exported)} | ${kind} | ${[...(doc === "" ? [] : [cell(doc)]), ...signatures.map((one) => code(cell(one)))].join(" ")} |`,
      );
      const body =
        rows.length === 0
          ? "Adds its matchers when it is imported."
          : ["| name | is | what it does |", "| --- | --- | --- |", ...rows].join("\n");
      const shown = program === undefined ? "" : `\n\n\`\`\`js${program}\n\`\`\``;
      return `### ${name}\n\n${body}${shown}`;
    })
    .join("\n\n");
}

/** The names that a file of types exports, with what is said of each where it is declared. */
export function exportsOf(file) {
  const text = readFileSync(file, "utf8");
  const found = [];
  for (const [, names, from] of text.matchAll(/export (?:type )?\{([^}]*)\}(?: from "([^"]+)")?/g)) {
    const source =
      from === undefined ? text : readFileSync(join(dirname(file), from.replace(/\.js$/, ".d.ts")), "utf8");
    for (const name of names
      .split(",")
      .map((one) => one.trim().replace(/^type /, ""))
      .filter(Boolean)) {
      const [local, exported = local] = name.split(" as ");
      found.push({ exported, ...declarationOf(source, local, exported) });
    }
  }
  for (const [, , name] of text.matchAll(/export (?:declare )?(function|const|interface|class|type) (\w+)/g))
    if (!found.some(({ exported }) => exported === name))
      found.push({ exported: name, ...declarationOf(text, name) });
  return found.sort((a, b) => a.exported.localeCompare(b.exported));
}

const KINDS = { function: "function", const: "value", interface: "type", type: "type", class: "class" };

// A function may be declared several times, for each way to call it.
function declarationOf(text, name, exported = name) {
  const matches = text.matchAll(
    new RegExp(
      `(/\\*\\*(?:(?!\\*/)[\\s\\S])*\\*/\\s*)?export (?:declare )?(function|const|interface|class|type) ${name}\\b([^\\n]*)`,
      "g",
    ),
  );
  const all = [...matches].map((match) => {
    const [, comment = "", kind, rest] = match;
    const doc = comment
      .replace(/^\s*\/\*\*|\*\/\s*$/g, "")
      .replace(/^\s*\* ?/gm, "")
      .replace(/```[\s\S]*?```/g, "")
      .replace(/\s+/g, " ")
      .trim();
    const whole = /^[\s\S]*?;(?=\n[^\s}]|\n?$)/.exec(text.slice(match.index + match[0].length - rest.length));
    const signature =
      kind === "function" ? `${exported}${whole[0].replace(/\s+/g, " ").replace(/;$/, "")}` : "";
    return { kind: KINDS[kind], signature, doc };
  });
  return {
    kind: all[0]?.kind ?? "type",
    signatures: all.map(({ signature }) => signature).filter(Boolean),
    doc: all
      .map(({ doc }) => doc)
      .filter(Boolean)
      .join(" "),
  };
}

async function reasons() {
  const { SENTENCES } = await load("core/explain/reason.js");
  const rows = Object.entries(SENTENCES).map(([name, sentence]) => `| ${code(name)} | ${cell(sentence)} |`);
  return ["| code | in words |", "| --- | --- |", ...rows].join("\n");
}

async function entry({ name, text, facts, type, keys, examples, check }) {
  const [right, wrong] = examples ?? [];
  const rows = keys.map(({ key, schema }) => `- ${code(key)}: ${describe(schema)}`);
  const parts = [
    `#### \`${name}\``,
    `${text}${/[.:]$/.test(text) ? "" : "."}`,
    [`Type: ${code(cell(type))}.`, ...facts].join(" "),
  ];
  if (rows.length > 0) parts.push(rows.join("\n"));
  if (right !== undefined) {
    const said = await check(parse(right));
    if (said.length > 0) throw new Error(`The example of ${name} is wrong: ${said.join(" ")}`);
    const [error] = await check(parse(wrong));
    if (error === undefined) throw new Error(`The wrong example of ${name} is right.`);
    parts.push(
      `Example: ${code(`${name}: ${right}`)}. Common mistake: ${code(`${name}: ${wrong}`)} (*${cell(error)}*)`,
    );
  }
  return parts.join("\n\n");
}

function inner(schema) {
  return schema.def.type === "optional" ? inner(schema.def.innerType) : schema;
}

function describe(schema) {
  return schema.description ?? (schema.def.type === "optional" ? describe(schema.def.innerType) : "");
}

/** The keys of a group, also where it is one of several forms or the entry of a list. */
function keysOf(schema) {
  const { def } = inner(schema);
  if (def.type === "object") return Object.entries(def.shape).map(([key, one]) => ({ key, schema: one }));
  if (def.type === "union") return def.options.flatMap(keysOf);
  if (def.type === "array") return keysOf(def.element);
  return [];
}

/** A type as people read it. */
function typeOf(schema) {
  const { def } = schema;
  if (schema.meta()?.typeName !== undefined) return schema.meta().typeName;
  switch (def.type) {
    case "optional":
      return typeOf(def.innerType);
    case "object":
      return Object.keys(def.shape).length > 12 ? "{ … }" : `{ ${Object.keys(def.shape).join(", ")} }`;
    case "array":
      return `[${typeOf(def.element)}]`;
    case "union":
      return [...new Set(def.options.map(typeOf))].join(" | ");
    case "record":
      return `{ ${typeOf(def.keyType)}: ${typeOf(def.valueType)} }`;
    case "enum":
      return Object.values(def.entries).join(" | ");
    case "literal":
      return def.values.map(String).join(" | ");
    case "pipe":
      return "text";
    case "lazy":
      return "value of JSON";
    case "string":
      return "text";
    default:
      return def.type;
  }
}
