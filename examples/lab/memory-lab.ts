import { findChanges } from "../../src/lab/changes/find-changes.js";
import { askBeam } from "../../src/lab/engine/ask.js";
import { type Locate, makeLocate, openSubject, readDefinition } from "../../src/lab/engine/open-subject.js";
import { toTextProblem, toTextProblems } from "../../src/lab/engine/problems.js";
import { AddressBook } from "../../src/lab/engine/search.js";
import type { Subject } from "../../src/lab/engine/subject.js";
import { viewFolder } from "../../src/lab/engine/tree.js";
import type { LabConnection } from "../../src/lab/shapes.js";
import { type MemoryTree, memorySource } from "../../src/sources/memory.js";

/** The same for each configuration: files do not change here. */
const modified = new Date();
const FILE = "epistyle.config.yaml";

/** A lab without a server: the site is in memory, and the page answers itself. `folders` are the trees that the configuration's folders name. */
export async function openMemoryLab(
  text: string,
  folders: Readonly<Record<string, MemoryTree>>,
  schema: object,
): Promise<LabConnection> {
  const open = (written: string): Promise<Subject> => openInMemory(written, folders);
  const subject = await open(text);
  const book = new AddressBook(subject);
  const no = { ok: false, problem: "Here is no file to save to." } as const;
  return {
    info: async () => ({
      about: `${FILE}, in memory`,
      mounts: subject.site.mounts,
      warnings: subject.site.warnings,
      text,
      isNew: false,
      schema,
      canSave: false,
      address: undefined,
      expectations: undefined,
    }),
    folder: (mount, path) => viewFolder(subject, mount, path),
    search: async (words) => book.find(words),
    ask: (question) => askBeam(subject, question),
    askDraft: (written, question) =>
      open(written).then(
        (draft) => askBeam(draft, question),
        () => undefined,
      ),
    async preview(written, options) {
      const locate = makeLocate(written, FILE);
      try {
        const next = await open(written);
        const changes = await findChanges(subject, next, options);
        const warnings = next.warnings.map((warning) => toTextProblem(warning, locate));
        return { kind: "changes", changes, warnings };
      } catch (error) {
        options.signal.throwIfAborted();
        return { kind: "problems", problems: toTextProblems(error, locate) };
      }
    },
    save: async () => no,
    saveExpectations: async () => no,
    draftCase: async () => "",
    check: async () => ({ kind: "results", cases: [], sum: "" }),
    watch: () => () => {},
  };
}

async function openInMemory(text: string, folders: Readonly<Record<string, MemoryTree>>): Promise<Subject> {
  const { definition, locate }: ReturnType<typeof readDefinition> & { locate: Locate } = readDefinition(
    text,
    FILE,
    "/",
  );
  const mounts = definition.config.mounts.map(({ folder = "", links: _links, ...mount }) => {
    const tree = folders[folder.replace(/^\.\/|\/+$/g, "")];
    if (tree === undefined)
      throw new Error(
        `mounts: found the folder "${folder}"; in memory there are ${Object.keys(folders).join(" and ")}.`,
      );
    return { ...mount, source: { ...memorySource(tree, { modified }), name: folder } };
  });
  return openSubject({ ...definition, config: { ...definition.config, mounts } }, locate);
}
