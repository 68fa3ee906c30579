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

/** Each of its many requests waits. */
const LEFT_OUT = "the length of the plain form";

test.each(Object.keys(PACKS))("faults of the area %s", async (area) => {
  const own = FAULTS.filter((fault) => fault.area === area && fault.what !== LEFT_OUT);
  // Several runs share the machine: an answer may take its time.
  const options = { packsOnly: true, timeoutMs: 10_000 };
  const rows = await runFaults({ runPacks, PACK_NAMES: PACKS[area] }, own, options);
  const { faults, packs } = promises[area];
  expect(own.length - countFound(rows).packs).toBe(faults - packs);
  const silent = rows.filter((row) => row.packs.length > 0 && !row.speaks);
  expect(silent.map(({ what, packs: [first] }) => [what, first])).toEqual([]);
});
