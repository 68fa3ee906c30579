import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { RIGHT_SERVERS } from "./right-servers.mjs";
import { startServer } from "./server.mjs";
import { changeSite } from "./site.mjs";

const SHELL = "/explorer/deep/link";
const pathsOf = (style = {}) => (style.shell ? [SHELL] : []);

/** What all packs say of each right server: a line for each case that failed. */
export async function runRightServers({ runPacks, PACK_NAMES }, wanted = () => true) {
  const alarms = [];
  for (const { what, style } of RIGHT_SERVERS.filter(wanted)) {
    const server = await startServer(style);
    try {
      const results = await runPacks(server.url, PACK_NAMES, { paths: pathsOf(style) });
      alarms.push({ what, lines: results.flatMap(describe) });
    } finally {
      server.stop();
    }
  }
  return alarms;
}

/**
 * What packs, a draft and a comparison say of each fault; or `packsOnly`, each with `timeoutMs` for an answer. The draft was made from the right server of the same style,
 * and the comparison is with it. Gives a row for each fault: the lines of each of the three, and whether the packs' first one speaks of it.
 */
export async function runFaults(
  product,
  faults,
  { atOnce = 3, onRow, packsOnly = false, timeoutMs = 6000 } = {},
) {
  const folder = mkdtempSync(join(tmpdir(), "epistyle-fault-bank-"));
  const styles = new Map();
  const rows = [];
  const queue = [...faults];
  const work = async () => {
    for (let one = queue.shift(); one !== undefined; one = queue.shift()) {
      const key = JSON.stringify(one.fault.style ?? {});
      if (!packsOnly && !styles.has(key))
        styles.set(key, openStyle(product, one.fault.style ?? {}, join(folder, `${styles.size}.yaml`)));
      const row = await runFault(product, one, { right: await styles.get(key), timeoutMs });
      rows.push(row);
      onRow?.(row);
    }
  };
  try {
    await Promise.all(Array.from({ length: atOnce }, work));
  } finally {
    for (const style of styles.values()) (await style).server.stop();
    rmSync(folder, { recursive: true });
  }
  return faults.map((fault) => rows.find((row) => row.what === fault.what && row.area === fault.area));
}

/** A right server with what a draft and a comparison need of it. */
async function openStyle({ askServer, observeSite, writeDraft, takeSample, makeQuestions }, style, file) {
  const server = await startServer(style);
  const asker = askServer(server.url);
  const observed = await observeSite(asker, undefined, pathsOf(style));
  writeFileSync(
    file,
    await writeDraft(observed, {
      about: "a right server",
      against: server.url,
      asker,
      command: "epistyle check",
    }),
  );
  const sample = await takeSample(asker, { paths: pathsOf(style) });
  const questions = makeQuestions(sample);
  const served = sample.resources
    .filter(({ path }) => !path.endsWith("/"))
    .map(({ path }) => ({ kind: "file", path }));
  await asker.close();
  return { server, file, questions, served };
}

async function runFault(product, { area, what, words, fault }, { right, timeoutMs }) {
  const { style, changes, before, after } = fault;
  const server = await startServer(style, { before, after, site: changes && changeSite(changes) });
  try {
    const packs = (
      await product
        .runPacks(server.url, product.PACK_NAMES, { paths: pathsOf(style), timeoutMs })
        .catch((error) => [error])
    ).flatMap(describe);
    const { draft, compare } =
      right === undefined ? { draft: [], compare: [] } : await askAsRight(product, right, server);
    const [first] = [...packs, ...draft, ...compare];
    return { area, what, packs, draft, compare, speaks: first !== undefined && words.test(first), words };
  } finally {
    server.stop();
  }
}

/** What the draft of a right server, and a comparison with it, say of another server. */
async function askAsRight(
  { askServer, loadExpectations, expandCases, runCases, compareSites, differs },
  { server: right, file, questions, served },
  server,
) {
  const [here, there] = [askServer(right.url), askServer(server.url, { timeoutMs: 6000 })];
  try {
    const cases = await expandCases(
      await loadExpectations(file, { address: server.url }),
      async () => served,
    );
    const draft = (await runCases(cases, there)).flatMap(describe);
    const compare = (await compareSites(questions, here, there)).filter(differs).map(describeComparison);
    return { draft, compare };
  } finally {
    await Promise.all([here.close(), there.close()]);
  }
}

/** A case that is not as it should be, in one line; none for others. */
function describe(result) {
  if (result instanceof Error) return [result.message];
  const {
    case: { name, group },
    outcome,
    exchanges,
    because,
  } = result;
  if (outcome === "passed" || outcome === "skipped" || outcome === "advised") return [];
  const bad = exchanges.find(({ differences, reply }) => differences.length > 0 || reply === undefined);
  const [first] = bad?.differences ?? [];
  const then = bad?.name === undefined ? "" : ` (${bad.name})`;
  const said =
    first === undefined
      ? (bad?.because ?? because ?? outcome)
      : `${first.about}: expected ${first.expected}, got ${first.got}`;
  return [`${group ?? ""} ${name}${then}: ${said}`.trim()];
}

function describeComparison({ question: { method, path }, unanswered, status, fields, body, reasons }) {
  const [field] = fields.filter(({ noise }) => !noise);
  const said =
    unanswered?.there ??
    (status === undefined ? undefined : `status ${status.here}, there ${status.there}`) ??
    (field === undefined
      ? `body: ${body?.here}, there ${body?.there}`
      : `${field.name}: ${field.here}, there ${field.there}`);
  return `compare ${method} ${path}: ${said}${reasons.length > 0 ? ` (${reasons[0]})` : ""}`;
}
