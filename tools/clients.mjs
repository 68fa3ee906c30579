// npm run clients: programs that people use on a site, each on a real server of this package: what they fetch must be what lies there. A program
// that is not installed is told, and left out. Ends with status 1 where one fails.
import { execFile } from "node:child_process";
import { createHash } from "node:crypto";
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { promisify } from "node:util";
import { gunzipSync } from "node:zlib";
import { build } from "./setup.mjs";

build();
const { openSite } = await import("../dist/index.js");
const { startServer } = await import("../dist/adapters/node.js");
const exec = promisify(execFile);
const folder = mkdtempSync(join(tmpdir(), "epistyle-clients-"));
const site = join(folder, "site");
const work = join(folder, "work");
mkdirSync(work);

const write = (path, content) => {
  const full = join(site, path);
  mkdirSync(dirname(full), { recursive: true });
  writeFileSync(full, content);
};
/** Bytes that look like chance, and are the same each time. */
const noise = (length, seed) => {
  const parts = [];
  for (let at = 0; at < length; at += 32) parts.push(createHash("sha256").update(`${seed} ${at}`).digest());
  return Buffer.concat(parts).subarray(0, length);
};
const sum = (bytes) => createHash("sha256").update(bytes).digest("hex");
const run = (program, args, options = {}) =>
  exec(program, args, { cwd: work, timeout: 60_000, maxBuffer: 64 * 1024 * 1024, ...options });
const isInstalled = async (program) => {
  try {
    await exec("sh", ["-c", `command -v ${program}`]);
    return true;
  } catch {
    return false;
  }
};

// Names that clients stumble over, a folder in a folder, and more rows than a page has.
for (let index = 0; index < 60; index++) write(`pool/deep/record-${index}.csv`, `heron,${index}\n`);
for (const name of ["a:b.txt", "it's.txt", "two words.txt", "50%.txt", "a&b.txt", "Ærfugl.txt"])
  write(`pool/${name}`, name);
write("calls/curlew.bin", noise(3_000_000, "curlew"));
write("index.html", '<!doctype html><title>Larkholm</title><a href="pool/">Records</a>');

const server = await startServer(
  await openSite({ mounts: [{ folder: site, kind: "archive", listing: { pageSize: "all" } }] }),
  { port: 0 },
);
const url = server.url;

const listTree = (root) =>
  readdirSync(root, { recursive: true })
    .map(String)
    .filter((path) => statSync(join(root, path)).isFile())
    .sort();

/** Throws where two folders do not hold the same files. */
function mustBeSame(got, wanted, isOurs = () => true) {
  const names = listTree(got).filter(isOurs);
  const missing = listTree(wanted).filter((path) => !names.includes(path));
  if (missing.length > 0) throw new Error(`${missing.length} files are missing, such as ${missing[0]}`);
  for (const path of listTree(wanted))
    if (sum(readFileSync(join(got, path))) !== sum(readFileSync(join(wanted, path))))
      throw new Error(`${path} differs`);
}

const pool = join(site, "pool");
/** Each: what it does, the program, and how. It throws where something is wrong. */
const CLIENTS = [
  [
    "curl goes on with a download",
    "curl",
    async () => {
      const whole = readFileSync(join(site, "calls/curlew.bin"));
      writeFileSync(join(work, "part.bin"), whole.subarray(0, 1_234_567));
      await run("curl", ["-sSf", "-C", "-", "-o", "part.bin", `${url}calls/curlew.bin`]);
      if (sum(readFileSync(join(work, "part.bin"))) !== sum(whole)) throw new Error("other bytes");
    },
  ],
  [
    "curl asks again with the tag it got",
    "curl",
    async () => {
      const again = async () =>
        (
          await run("curl", [
            "-sS",
            "-o",
            "out",
            "-w",
            "%{http_code}",
            "--etag-save",
            "tag",
            "--etag-compare",
            "tag",
            `${url}pool/a%26b.txt`,
          ])
        ).stdout;
      writeFileSync(join(work, "tag"), "");
      const codes = [await again(), await again()];
      if (codes.join() !== "200,304") throw new Error(codes.join());
    },
  ],
  [
    "curl over HTTP/2 without TLS is refused at once",
    "curl",
    async () => {
      const failed = await run("curl", ["-sS", "--max-time", "10", "--http2-prior-knowledge", url]).catch(
        (error) => error,
      );
      if (failed.code === undefined || failed.code === 28) throw new Error("it waited in vain");
    },
  ],
  [
    "curl takes a compressed list",
    "curl",
    async () => {
      const { stdout } = await run("curl", ["-sSf", "-H", "Accept-Encoding: gzip", `${url}pool/deep/`], {
        encoding: "buffer",
      });
      if (!gunzipSync(stdout).includes("record-59.csv")) throw new Error("the list is not whole");
    },
  ],
  [
    "wget mirrors a folder",
    "wget",
    async () => {
      await run("wget", [
        "-q",
        "-r",
        "-np",
        "-nH",
        "--cut-dirs=1",
        "-R",
        "index.html*",
        "--restrict-file-names=nocontrol",
        "-P",
        "wget",
        `${url}pool/`,
      ]);
      mustBeSame(join(work, "wget"), pool);
    },
  ],
  [
    "wget fetches only what is newer",
    "wget",
    async () => {
      await run("wget", ["-q", "-N", `${url}calls/curlew.bin`]);
      const { stderr } = await run("wget", ["-N", `${url}calls/curlew.bin`]);
      if (!/304 Not Modified/.test(stderr)) throw new Error(stderr.slice(-200));
    },
  ],
  [
    "lftp mirrors a folder",
    "lftp",
    async () => {
      await run("lftp", ["-c", `mirror ${url}pool/ lftp`]);
      mustBeSame(join(work, "lftp"), pool);
    },
  ],
  [
    "rclone copies a folder",
    "rclone",
    async () => {
      await run("rclone", ["copy", "--http-url", `${url}pool/`, ":http:", "rclone", "--config", "/dev/null"]);
      // It asks for /./a:b.txt, and no address with a segment of dots is answered.
      writeFileSync(join(work, "rclone/a:b.txt"), "a:b.txt");
      mustBeSame(join(work, "rclone"), pool);
    },
  ],
  [
    "aria2 downloads over eight connections",
    "aria2c",
    async () => {
      await run("aria2c", [
        "-q",
        "-x8",
        "-s8",
        "-k1M",
        "--min-split-size=1M",
        "-o",
        "aria.bin",
        `${url}calls/curlew.bin`,
      ]);
      if (sum(readFileSync(join(work, "aria.bin"))) !== sum(readFileSync(join(site, "calls/curlew.bin"))))
        throw new Error("other bytes");
    },
  ],
  [
    "zsync fetches what changed",
    "zsync",
    async () => {
      const whole = readFileSync(join(site, "calls/curlew.bin"));
      const old = Buffer.from(whole);
      for (let at = 0; at < 24; at++) old.fill(0, at * 120_000, at * 120_000 + 3000);
      writeFileSync(join(work, "old.bin"), old);
      await run("zsyncmake", [
        "-u",
        `${url}calls/curlew.bin`,
        "-o",
        join(site, "calls/curlew.bin.zsync"),
        join(site, "calls/curlew.bin"),
      ]);
      await run("zsync", ["-q", "-i", "old.bin", "-o", "new.bin", `${url}calls/curlew.bin.zsync`]);
      if (sum(readFileSync(join(work, "new.bin"))) !== sum(whole)) throw new Error("other bytes");
    },
  ],
  [
    "git clones a repository",
    "git",
    async () => {
      const env = {
        ...process.env,
        GIT_AUTHOR_NAME: "L",
        GIT_AUTHOR_EMAIL: "l@larkholm.example",
        GIT_COMMITTER_NAME: "L",
        GIT_COMMITTER_EMAIL: "l@larkholm.example",
      };
      mkdirSync(join(work, "source"));
      writeFileSync(join(work, "source/dunlin.csv"), "dunlin,3\n");
      for (const args of [
        ["init", "-q", "-b", "main"],
        ["add", "."],
        ["commit", "-q", "-m", "Dunlins"],
      ])
        await run("git", args, { cwd: join(work, "source"), env });
      await run("git", ["clone", "-q", "--bare", "source", join(site, "records")], { env });
      await run("git", ["update-server-info"], { cwd: join(site, "records"), env });
      await run("git", ["clone", "-q", `${url}records`, "cloned"], { env });
      if (readFileSync(join(work, "cloned/dunlin.csv"), "utf8") !== "dunlin,3\n")
        throw new Error("other bytes");
    },
  ],
  [
    "apt reads a list of packages",
    "apt-get",
    async () => {
      write("debian/Packages", "");
      const packages = sum("");
      write("debian/Release", `Date: Tue, 01 Dec 2026 08:00:00 UTC\nSHA256:\n ${packages} 0 Packages\n`);
      for (const name of ["lists/partial", "cache/archives/partial", "etc"])
        mkdirSync(join(work, "apt", name), { recursive: true });
      writeFileSync(join(work, "apt/etc/sources.list"), `deb [trusted=yes] ${url} debian/\n`);
      const set = {
        "Dir::State::lists": "lists",
        "Dir::Cache": "cache",
        "Dir::Etc::sourcelist": "etc/sources.list",
      };
      const options = Object.entries(set).flatMap(([key, value]) => [
        "-o",
        `${key}=${join(work, "apt", value)}`,
      ]);
      const { stdout } = await run("apt-get", [
        "update",
        ...options,
        "-o",
        "Dir::Etc::sourceparts=-",
        "-o",
        "APT::Sandbox::User=root",
      ]);
      if (/^Err/m.test(stdout) || !/^(?:Get|Hit)/m.test(stdout)) throw new Error(stdout.slice(-300));
    },
  ],
  [
    "pip downloads a package by its list",
    "pip3",
    async () => {
      const make = `import zipfile
z = zipfile.ZipFile("larkholm-1.0-py3-none-any.whl", "w")
z.writestr("larkholm.py", "")
z.writestr("larkholm-1.0.dist-info/METADATA", "Metadata-Version: 2.1\\nName: larkholm\\nVersion: 1.0\\n")
z.writestr("larkholm-1.0.dist-info/WHEEL", "Wheel-Version: 1.0\\nGenerator: x\\nRoot-Is-Purelib: true\\nTag: py3-none-any\\n")
z.writestr("larkholm-1.0.dist-info/RECORD", "")`;
      mkdirSync(join(site, "simple/larkholm"), { recursive: true });
      await run("python3", ["-c", make], { cwd: join(site, "simple/larkholm") });
      await run("pip3", [
        "download",
        "-q",
        "--no-deps",
        "--disable-pip-version-check",
        "--index-url",
        `${url}simple/`,
        "-d",
        "pip",
        "larkholm==1.0",
      ]);
      mustBeSame(join(work, "pip"), join(site, "simple/larkholm"));
    },
  ],
  [
    "ffmpeg jumps in a recording",
    "ffmpeg",
    async () => {
      await run("ffmpeg", [
        "-v",
        "error",
        "-f",
        "lavfi",
        "-i",
        "sine=duration=60",
        join(site, "calls/tern.wav"),
      ]);
      const { stdout } = await run(
        "ffmpeg",
        ["-v", "error", "-ss", "50", "-i", `${url}calls/tern.wav`, "-t", "1", "-f", "s16le", "-"],
        { encoding: "buffer" },
      );
      if (stdout.length < 80_000) throw new Error(`${stdout.length} bytes of sound`);
    },
  ],
];

let failed = 0;
for (const [what, program, use] of CLIENTS) {
  if (!(await isInstalled(program))) {
    console.log(`left out  ${what}: ${program} is not installed`);
    continue;
  }
  try {
    await use();
    console.log(`works     ${what}`);
  } catch (error) {
    failed++;
    console.log(
      `FAILED    ${what}: ${String(error.stderr || error.message)
        .trim()
        .split("\n")
        .slice(-3)
        .join(" | ")
        .slice(0, 400)}`,
    );
  }
}
await server.close();
if (existsSync(folder)) rmSync(folder, { recursive: true, force: true });
process.exit(failed === 0 ? 0 : 1);
