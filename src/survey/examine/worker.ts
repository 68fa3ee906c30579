import { on } from "node:events";
import { parentPort, workerData } from "node:worker_threads";
import { openContext } from "../open-context.js";
import { examine } from "./examine.js";
import { packNotes } from "./pack.js";
import type { Examined, FileToExamine, WorkerStart } from "./team.js";

// A thread that examines files for a survey, one batch after the other.
const { config, wanted } = workerData as WorkerStart;
const { context } = await openContext(config);
const mounts = context.compiled.mounts.values();

for await (const [batch] of on(parentPort!, "message") as AsyncIterable<[readonly FileToExamine[]]>) {
  const examined: Examined[] = [];
  for (const { mount, ...file } of batch) {
    const notes = await examine(context, { ...file, mount: mounts[mount]! }, wanted);
    examined.push({
      notes: notes === undefined ? undefined : packNotes(notes),
      findings: context.takeFindings(),
    });
  }
  parentPort!.postMessage(examined);
}
