// How long until a server listens. Usage: node start.mjs FOLDER. Prints medians in milliseconds, over a bare server's.
import { spawn } from "node:child_process";
import { writeFileSync } from "node:fs";
import { join } from "node:path";

const RUNS = 15;
const [, , folder] = process.argv;
const bare = join(folder, "bare.mjs");
writeFileSync(
  bare,
  `import { createServer } from "node:http";\ncreateServer().listen(0, "127.0.0.1", () => console.log("ready"));\n`,
);
const here = import.meta.dirname;
const kinds = {
  bare: [bare],
  open: [join(here, "live.mjs"), folder, "0"],
  serve: [join(here, "../dist/cli/bin.js"), "serve", folder, "--port", "0", "--log", "off"],
};

function time(args) {
  return new Promise((done) => {
    const started = performance.now();
    const child = spawn(process.execPath, args, { stdio: ["ignore", "pipe", "inherit"] });
    let out = "";
    child.stdout.on("data", (chunk) => {
      out += chunk;
      if (!/ready|Listening/.test(out)) return;
      const milliseconds = performance.now() - started;
      child.on("exit", () => done(milliseconds));
      child.kill("SIGKILL");
      out = "";
    });
  });
}

const turns = Object.fromEntries(Object.keys(kinds).map((name) => [name, []]));
for (let run = 0; run <= RUNS; run++)
  for (const [name, args] of Object.entries(kinds)) {
    const milliseconds = await time(args);
    if (run > 0) turns[name].push(milliseconds);
  }
const median = (all) => [...all].sort((a, b) => a - b)[all.length >> 1];
const bareMs = median(turns.bare);
console.log(
  JSON.stringify({ bare: bareMs, open: median(turns.open) - bareMs, serve: median(turns.serve) - bareMs }),
);
