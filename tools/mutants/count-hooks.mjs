// What a file's hooks run before its tests counts as run by each test of the file. Without this a fault that shows in what is
// opened once for all of them would be tried with none of them.
import { afterAll, beforeAll, inject } from "vitest";

const HOOKS = "hooks";

if (inject("mode") === "dry-run") {
  const counts = globalThis[inject("globalNamespace")];
  let current;
  let isRunning = false;
  Object.defineProperty(counts, "currentTestId", {
    configurable: true,
    get: () => current ?? (isRunning ? HOOKS : undefined),
    set(id) {
      current = id;
    },
  });
  beforeAll(() => {
    isRunning = true;
  });
  // biome-ignore lint/correctness/noEmptyPattern: the context is asked for by its pattern.
  afterAll(({}, file) => {
    isRunning = false;
    const { [HOOKS]: byHooks, ...perTest } = counts.mutantCoverage?.perTest ?? {};
    if (byHooks === undefined) return;
    for (const test of testsOf(file)) {
      const id = idOf(test);
      perTest[id] ??= {};
      for (const [fault, count] of Object.entries(byHooks))
        perTest[id][fault] = (perTest[id][fault] ?? 0) + count;
    }
    counts.mutantCoverage.perTest = perTest;
  });
}

const testsOf = (task) => (task.type === "test" ? [task] : task.tasks.flatMap(testsOf));

function idOf(test) {
  const names = [test.name];
  for (let suite = test.suite; suite; suite = suite.suite) names.unshift(suite.name);
  return `${test.file?.filepath}#${names.join(" ").trim()}`;
}
