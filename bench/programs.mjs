// What is measured, and the yardsticks: each a program of its own on the same folder.
import { mkdirSync, mkdtempSync, rmSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { brotliCompressSync } from "node:zlib";
import { root } from "../tools/setup.mjs";
import { startProgram } from "./measure.mjs";

/** Each program runs so many times: equal processes differ by a tenth, for as long as they live. */
const COPIES = 3;
const PORTS = { ceiling: 18_301, handwritten: 18_302, live: 18_303, sealed: 18_304, other: 18_305 };
const LARGE_BYTES = 200 * 1024 * 1024;

/** Starts all programs on a folder that is made for them. */
export async function openPrograms({ many, against }) {
  const folder = mkdtempSync(join(tmpdir(), "epistyle-bench-"));
  makeFiles(folder, many);
  // What was written a moment ago is not kept.
  await new Promise((done) => setTimeout(done, 3500));
  const here = (name) => join(root, "bench", name);
  const running = {
    live: await startProgram(here("live.mjs"), folder, String(PORTS.live)),
    sealed: await startProgram(here("sealed.mjs"), folder, String(PORTS.sealed)),
    handwritten: await startProgram(here("handwritten.mjs"), folder, String(PORTS.handwritten)),
    ...(against !== undefined && {
      other: await startProgram(join(against, "bench/live.mjs"), folder, String(PORTS.other)),
    }),
  };
  const answers = await recordAnswers(folder, many);
  writeFileSync(join(folder, "answers.json"), JSON.stringify(answers));
  running.ceiling = await startProgram(
    here("ceiling.mjs"),
    join(folder, "answers.json"),
    String(PORTS.ceiling),
  );
  const copies = {};
  for (const [name, { pid }] of Object.entries(running)) {
    copies[name] = [{ pid, port: PORTS[name] }];
    for (let i = 1; i < COPIES; i++) {
      const port = PORTS[name] + 10 * i;
      const from = name === "ceiling" ? join(folder, "answers.json") : folder;
      const program = name === "other" ? join(against, "bench/live.mjs") : here(`${name}.mjs`);
      const { pid, stop } = await startProgram(program, from, String(port));
      copies[name].push({ pid, port, stop });
    }
  }
  return {
    folder,
    ports: PORTS,
    running,
    copies,
    names: Object.keys(PORTS).filter((name) => running[name] !== undefined),
    async restart(name) {
      running[name].stop();
      running[name] = await startProgram(here(`${name}.mjs`), folder, String(PORTS[name]));
      return running[name];
    },
    stop() {
      for (const program of [...Object.values(running), ...Object.values(copies).flat()]) program.stop?.();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

function makeFiles(folder, many) {
  const put = (path, bytes) => {
    writeFileSync(join(folder, path), bytes);
    utimesSync(join(folder, path), 1_790_000_000, 1_790_000_000);
  };
  for (const [name, bytes] of [
    ["1k.html", 1024],
    ["4k.html", 4096],
    ["16k.html", 16_384],
    ["64k.html", 65_536],
    ["256k.html", 262_144],
    ["1m.html", 1_048_576],
    ["large.bin", LARGE_BYTES],
  ])
    put(name, Buffer.alloc(bytes, "x"));
  // A coding of about a third, as a page's is.
  const words = Buffer.alloc(16_384, "the heron, the tern and the curlew of Larkholm; ");
  put("16k.html.br", Buffer.concat([brotliCompressSync(words), Buffer.alloc(5000, "y")]));
  mkdirSync(join(folder, "many"));
  for (let i = 0; i < 1000; i++) put(`many/${i}.html`, Buffer.alloc(1024, String(i)));
  if (!many) return;
  mkdirSync(join(folder, "all"));
  for (let i = 0; i < 100_000; i++) put(`all/${i}.html`, Buffer.alloc(1024, String(i)));
}

/** What the library answers, for the ceiling to repeat field by field. */
async function recordAnswers(folder, many) {
  const recorded = {};
  for (const path of [
    "/1k.html",
    "/4k.html",
    "/16k.html",
    "/64k.html",
    "/256k.html",
    "/1m.html",
    "/missing.html",
    "/large.bin",
    "/many/0.html",
  ])
    recorded[path] = await recordAnswer(folder, path);
  recorded["/16k.html#br"] = {
    ...(await recordAnswer(folder, "/16k.html", "br")),
    file: join(folder, "16k.html.br"),
  };
  // The fields of many files differ in their tags alone: each has its own.
  const { fields } = recorded["/many/0.html"];
  const tag = fields.indexOf("etag") + 1;
  const ownFields = (i) => fields.with(tag, `"${String(i).padStart(fields[tag].length - 2, "A")}"`);
  for (const [name, count] of [
    ["many", 1000],
    ["all", many ? 100_000 : 0],
  ])
    for (let i = 0; i < count; i++)
      recorded[`/${name}/${i}.html`] = {
        status: 200,
        fields: ownFields(i),
        file: join(folder, name, `${i}.html`),
      };
  return recorded;
}

async function recordAnswer(folder, path, coding = "identity") {
  const url = `http://127.0.0.1:${PORTS.live}${path}`;
  // The client of this platform would ask for a coding by itself.
  const plain = { "accept-encoding": coding };
  const response = await fetch(url, { method: "HEAD", headers: plain });
  const lines = (r) => [...r.headers].filter(([name]) => !/^(date|connection|keep-alive)$/.test(name)).flat();
  const tag = response.headers.get("etag");
  const current =
    tag === null ? undefined : await fetch(url, { headers: { ...plain, "if-none-match": tag } });
  return {
    status: response.status,
    fields: lines(response),
    notModified: current && lines(current),
    ...(response.ok
      ? { file: join(folder, path) }
      : { body: await (await fetch(url, { headers: { accept: "*/*" } })).text() }),
  };
}
