import { extractImports } from "../../reading/links.js";
import type { Reference } from "../../reading/pages/references.js";
import type { Names } from "../examine/notes.js";
import type { SurveyContext, SurveyedFile } from "../survey-context.js";
import { ORIGIN, type Targets } from "./targets.js";

/** What scripts import, and which of them a page loads: nobody runs the others, so what they name is nobody's loss. */
export class Modules {
  readonly #context: SurveyContext;
  readonly #targets: Targets;
  readonly #scripts = new Map<
    SurveyedFile,
    { readonly references: readonly Reference[]; readonly bare: readonly string[] }
  >();
  readonly #loaded = new Set<SurveyedFile>();
  /** Names that some import map of the site explains; one that ends in a slash is the beginning of others. */
  readonly #mapped = new Set<string>();
  /** Names of modules without an address, with the file that imports each. */
  readonly #bare = new Map<SurveyedFile, readonly string[]>();

  constructor(context: SurveyContext, targets: Targets) {
    this.#context = context;
    this.#targets = targets;
  }

  add(file: SurveyedFile, { references, bare }: Pick<Names, "references" | "bare">): void {
    if (references.length > 0 || bare.length > 0) this.#scripts.set(file, { references, bare });
  }

  addPage(file: SurveyedFile, { hasScripts, mapped, bare, references }: Names): void {
    if (!hasScripts) return;
    for (const name of mapped) this.#mapped.add(name);
    if (bare.length > 0) this.#bare.set(file, bare);
    for (const { url, element } of references)
      if (element === "script" || element === "link" || element === "import")
        this.#load(url.slice(ORIGIN.length));
  }

  #load(address: string): void {
    const query = address.indexOf("?");
    const file = this.#targets.fileAt(query < 0 ? address : address.slice(0, query));
    if (file !== undefined) this.#loaded.add(file);
  }

  /** What the scripts import that some page loads, those among them that only others import. */
  *listImports(): Generator<[SurveyedFile, readonly Reference[]]> {
    // What is added meanwhile is visited, too.
    for (const file of this.#loaded) {
      const script = this.#scripts.get(file);
      if (script === undefined) continue;
      if (script.bare.length > 0) this.#bare.set(file, script.bare);
      for (const { url } of script.references) this.#load(url.slice(ORIGIN.length));
      yield [file, script.references];
    }
    // Sources that only a build reads leave extensions out; what has one is meant for browsers.
    for (const [file, { references }] of this.#scripts)
      if (!this.#loaded.has(file)) yield [file, references.filter(({ url }) => /\.\w+$/.test(url))];
  }

  // HTML §8.1.6.2: a name that is no address is looked for in the import map, and nowhere else.
  report(): void {
    for (const [file, names] of this.#bare) {
      const [first] = names.filter((name) => !this.#isMapped(name));
      if (first === undefined) continue;
      this.#context.report(
        "module-without-address",
        file,
        `It imports ${JSON.stringify(first)}: browsers find modules by address, so the script does not run.`,
        "Build it with a bundler, write the module's address, or add an import map to the page.",
      );
    }
  }

  #isMapped(name: string): boolean {
    return (
      this.#mapped.has(name) ||
      [...this.#mapped].some((prefix) => prefix.endsWith("/") && name.startsWith(prefix))
    );
  }
}

/** The names without an address that a script imports: each is one of a package, as nobody writes one in another meaning behind "import". */
export const listBare = (script: string): string[] =>
  extractImports(script).filter((name) => /^(?:@[\w.-]+\/)?[a-z][\w.-]*(?:\/[\w./-]+)?$/i.test(name));
