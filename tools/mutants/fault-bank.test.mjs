// The fault bank as tests, an area each: the packs that are about it must find as many faults as the documentation promises, and name them.
import { expect, test } from "vitest";
import { FAULTS } from "../../banks/fault-bank/faults/index.mjs";
import { runFaults } from "../../banks/fault-bank/run.mjs";
import { countFound, readPromises } from "../../banks/fault-bank/table.mjs";
import { runPacks } from "../../src/testing/index.js";

const PACKS = {
  links: ["links", "framing", "types", "conditional", "content", "delivery"],
  missing: ["missing", "app-shell", "types", "path-safety", "caching"],
  methods: ["methods"],
  HEAD: ["framing", "head"],
  caching: ["caching", "codings"],
  conditional: ["conditional"],
  ranges: ["ranges"],
  paths: ["path-safety"],
  exposure: ["exposure"],
  listings: ["listings"],
  content: ["content"],
  types: ["types", "content", "caching", "links"],
  delivery: ["delivery", "path-safety", "protected", "links"],
  // They wait for answers that do not come.
  codings: ["framing", "codings"],
  wire: ["framing"],
};
const promises = readPromises();

test.each(Object.keys(PACKS))("faults of the area %s", async (area) => {
  const own = FAULTS.filter((fault) => fault.area === area);
  const rows = await runFaults({ runPacks, PACK_NAMES: PACKS[area] }, own, { packsOnly: true });
  expect(countFound(rows).packs).toBe(promises[area].packs);
  const silent = rows.filter(({ packs, speaks }) => packs.length > 0 && !speaks);
  expect(silent.map(({ what, packs: [first] }) => [what, first])).toEqual([]);
});
