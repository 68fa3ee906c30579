import { RIGHT_SERVERS } from "./right-servers.mjs";
import { startServer } from "./server.mjs";

const SHELL = "/explorer/deep/link";

/** What all packs say of each right server: a line for each case that failed. */
export async function runRightServers({ runPacks, PACK_NAMES }, wanted = () => true) {
  const alarms = [];
  for (const { what, style } of RIGHT_SERVERS.filter(wanted)) {
    const server = await startServer(style);
    try {
      const results = await runPacks(server.url, PACK_NAMES, { paths: style.shell ? [SHELL] : [] });
      alarms.push({ what, lines: results.flatMap(describe) });
    } finally {
      server.stop();
    }
  }
  return alarms;
}

/** A case that is not as it should be, in one line; none for others. */
function describe({ case: { name, group }, outcome, exchanges, because }) {
  if (outcome === "passed" || outcome === "skipped" || outcome === "advised") return [];
  const bad = exchanges.find(({ differences, reply }) => differences.length > 0 || reply === undefined);
  const [first] = bad?.differences ?? [];
  const what = first === undefined ? (bad?.because ?? because ?? outcome) : `${first.about}: expected ${first.expected}, got ${first.got}`;
  return [`${group ?? ""} ${name}: ${what}`.trim()];
}
