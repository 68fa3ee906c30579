import { basename, dirname, resolve } from "node:path";
import { stringify } from "yaml";
import { shorten } from "../../config/config-file.js";
import type { SiteDefinition } from "../../config/define.js";
import type { Site } from "../../site/site.js";
import { resolveFolder } from "../../sources/earlier-folders.js";
import { askSite } from "../../testing/ask/in-process.js";
import { describeObserved } from "../../testing/draft/describe.js";
import { makeFileCases } from "../../testing/format/file-cases.js";
import { readExpectations } from "../../testing/format/load.js";
import { countResults, speakCounts } from "../../testing/reports/run.js";
import { runCases } from "../../testing/run.js";
import { findChanges } from "../changes/find-changes.js";
import { askBeam, toRequest } from "../engine/ask.js";
import { makeLocate, openSubject, readDefinition } from "../engine/open-subject.js";
import { toTextProblem, toTextProblems } from "../engine/problems.js";
import { AddressBook } from "../engine/search.js";
import type { Subject } from "../engine/subject.js";
import { viewFolder } from "../engine/tree.js";
import type {
  Beam,
  CheckOutcome,
  Edited,
  Found,
  LabInfo,
  LabQuestion,
  LookProgress,
  Preview,
  Saved,
  TextProblem,
  TreeFolder,
} from "../shapes.js";
import { toCaseOutcome } from "./case-outcome.js";
import type { TextFile } from "./text-file.js";

/** What a lab looks at. */
export interface WorkspaceOptions {
  /** The configuration as it is in force: read again with each change. */
  readonly load: () => Promise<SiteDefinition>;
  /** The configuration's file, where it is a text. */
  readonly file: TextFile | undefined;
  /** What is edited where there is no file yet. */
  readonly draft: string | undefined;
  readonly expectations: TextFile;
  readonly canSave: boolean;
  readonly address: string | undefined;
  readonly about: string;
  readonly schema: object;
}

/** Names are read again for a search when they were read so long ago, in milliseconds. */
const BOOK_MS = 20_000;
/** How often a look at what changes tells how far it has come, in milliseconds. */
const PROGRESS_MS = 500;

/** A text as a site, or what is wrong with it. */
type Opened = { readonly subject: Subject } | { readonly problems: readonly TextProblem[] };

/** A site under the glass: what the lab's page asks is answered here. It changes nothing but the two files, and these only when told to. */
export class Workspace {
  readonly #options: WorkspaceOptions;
  #subject: Subject;
  #book: { readonly of: AddressBook; readonly since: number } | undefined;
  /** The text that was looked at last, as a site; and the site that it was held against. */
  #draft: { readonly text: string; readonly of: Subject; readonly opened: Promise<Opened> } | undefined;
  #previewing = new AbortController();
  #reloading: Promise<void> = Promise.resolve();

  private constructor(options: WorkspaceOptions, subject: Subject) {
    this.#options = options;
    this.#subject = subject;
  }

  static async open(options: WorkspaceOptions): Promise<Workspace> {
    return new Workspace(options, await openFrom(options));
  }

  get site(): Site {
    return this.#subject.site;
  }

  /** Opens the site again. Rejects with what is wrong: then the one before stays. */
  reload(): Promise<void> {
    // One after another: what was read first must not take the place of what was read last.
    const reloaded = this.#reloading.then(async () => {
      await this.#options.file?.refresh();
      this.#subject = await openFrom(this.#options);
      this.forgetNames();
    });
    this.#reloading = reloaded.catch(() => {});
    return reloaded;
  }

  /** The folders that are served, with their whole paths. */
  get folders(): readonly string[] {
    const { base, mounts } = this.#subject.config;
    return mounts.flatMap(({ folder }) => (folder === undefined ? [] : (resolveFolder(folder, base) ?? [])));
  }

  /** Reads the names again for the next search. */
  forgetNames(): void {
    this.#book?.of.stop();
    this.#book = undefined;
  }

  async info(): Promise<LabInfo> {
    // Somebody may have written them since: what is shown is what is there.
    await Promise.all([this.#options.file?.refresh(), this.#options.expectations.refresh()]);
    const { about, file, draft, schema, canSave, address, expectations } = this.#options;
    const { site } = this.#subject;
    return {
      about,
      mounts: site.mounts.map(({ at, source }) => ({ at, source })),
      warnings: site.warnings,
      text: file?.text ?? draft,
      schema,
      canSave: canSave && file !== undefined,
      address,
      isNew: file !== undefined && file.text === undefined,
      expectations: {
        file: shorten(expectations.path),
        text: expectations.text ?? "",
        isNew: expectations.text === undefined,
      },
    };
  }

  folder(mount: number, path: string): Promise<TreeFolder> {
    return viewFolder(this.#subject, mount, path);
  }

  search(text: string): Found {
    const now = performance.now();
    if (this.#book === undefined || now - this.#book.since > BOOK_MS) {
      this.#book?.of.stop();
      this.#book = { of: new AddressBook(this.#subject), since: now };
    }
    return this.#book.of.find(text);
  }

  ask(question: LabQuestion): Promise<Beam> {
    return askBeam(this.#subject, question);
  }

  /** Answers as if a text were the configuration; undefined where it cannot be. */
  async askDraft(text: string, question: LabQuestion): Promise<Beam | undefined> {
    const opened = await this.#openDraft(text);
    return "problems" in opened ? undefined : askBeam(opened.subject, question);
  }

  // The page asks about the same text again and again. One that is wrong may be right as soon as a file is there.
  async #openDraft(text: string): Promise<Opened> {
    const { text: before, of } = this.#draft ?? {};
    if (before !== text || of !== this.#subject)
      this.#draft = { text, of: this.#subject, opened: this.#open(text) };
    const opened = await this.#draft!.opened;
    if ("problems" in opened) this.#draft = undefined;
    return opened;
  }

  /** What a text would change, were it the configuration. A later text ends the look at an earlier one. */
  async preview(text: string, onProgress?: (progress: LookProgress) => void): Promise<Preview> {
    this.#previewing.abort(new Error("A newer text is being checked."));
    this.#previewing = new AbortController();
    const { signal } = this.#previewing;
    const next = await this.#openDraft(text);
    if ("problems" in next) return { kind: "problems", problems: next.problems };
    let told = performance.now();
    const changes = await findChanges(this.#subject, next.subject, {
      signal,
      onProgress(progress) {
        if (performance.now() - told < PROGRESS_MS) return;
        told = performance.now();
        onProgress?.(progress);
      },
    });
    const { locate } = next.subject;
    const warnings = next.subject.warnings.map((one) => toTextProblem(one, locate));
    return { kind: "changes", changes, warnings };
  }

  async #open(text: string): Promise<Opened> {
    const file = this.#fileName();
    const locate = makeLocate(text, file);
    try {
      const { definition } = readDefinition(text, file, dirname(resolve(file)));
      return { subject: await openSubject(definition, locate) };
    } catch (error) {
      return { problems: toTextProblems(error, locate) };
    }
  }

  async save(edited: Edited): Promise<Saved> {
    const { file, canSave } = this.#options;
    if (!canSave) return NOT_EDITED;
    if (file === undefined) return { ok: false, problem: "There is no file to save to." };
    // What it would change is not asked again: a text that is typed meanwhile would end that.
    const opened = await this.#open(edited.text);
    if ("problems" in opened)
      return { ok: false, problem: opened.problems.map((one) => one.text).join("\n") };
    const saved = await file.save(edited);
    if (saved.ok) await this.reload();
    return saved;
  }

  async saveExpectations(edited: Edited): Promise<Saved> {
    return this.#options.canSave ? this.#options.expectations.save(edited) : NOT_EDITED;
  }

  /** An answer as a case of an expectations file, as text: what matters of it, and nothing that changes by itself. */
  async draftCase(question: LabQuestion): Promise<string> {
    const { method, target, headers } = await toRequest(this.#subject, question);
    const sent = headers as Record<string, string>;
    const asker = askSite(this.site);
    const asked = { method, path: target, headers: sent };
    const reply = await asker.ask(asked);
    const name = `${method} ${target}`;
    const observed = {
      group: "documents" as const,
      name,
      question: asked,
      reply,
      address: asker.address,
      live: true,
    };
    const kept = Object.fromEntries(Object.entries(sent).filter(([field]) => MATTERS.test(field)));
    const request =
      Object.keys(kept).length === 0
        ? name
        : { ...(method !== "GET" && { method }), path: target, headers: kept };
    return stringify([{ name, request, expect: describeObserved(observed) }], {
      lineWidth: 100,
      flowCollectionPadding: true,
    });
  }

  /** Runs the cases of a text, as if it were the expectations file. */
  async check(text: string): Promise<CheckOutcome> {
    const { path } = this.#options.expectations;
    const file = shorten(path);
    const locate = makeLocate(text, file);
    try {
      const expectations = readExpectations(text, path);
      const { site } = this;
      const asker = askSite(site);
      const results = await runCases(await makeFileCases(expectations, { asker, site }), asker);
      return { kind: "results", cases: results.map(toCaseOutcome), sum: speakCounts(countResults(results)) };
    } catch (error) {
      return { kind: "problems", problems: toTextProblems(error, locate) };
    }
  }

  #fileName(): string {
    const { file } = this.#options;
    return file === undefined ? "epistyle.config.yaml" : shorten(file.path);
  }
}

const NOT_EDITED: Saved = { ok: false, problem: "This lab cannot save. Start it with --edit to save." };

/** Fields by which an answer is chosen; the others say nothing that a case needs. */
const MATTERS = /^(?:accept|accept-encoding|accept-language|sec-fetch-(?:mode|dest)|origin|range|if-[\w-]+)$/;

async function openFrom({ load, file }: WorkspaceOptions): Promise<Subject> {
  const definition = await load();
  const locate = file?.text === undefined ? undefined : makeLocate(file.text, shorten(file.path));
  return openSubject(definition, locate);
}

/** The configuration of a folder that has none, as somebody would begin one. */
export function draftConfiguration(folder: string): string {
  const shown = shorten(resolve(folder)) || ".";
  return `mounts:\n  - folder: ${JSON.stringify(shown.startsWith("/") ? shown : `./${shown}`)}\n`;
}

/** Where the expectations of a configuration are kept, when nobody names another file. */
export function expectationsBeside(path: string): string {
  const name = basename(path).replace(/^epistyle\.config\..*$/, "expectations.yaml");
  return resolve(dirname(path), name === basename(path) ? "expectations.yaml" : name);
}
