// Starts a real distributed object store on this machine: OpenStack Swift with its S3 interface, three devices, three copies of each object.
// It is made of Debian's packages python3-swift and memcached. Rings, devices and settings lie in one folder, so that it can be started
// again. What it does not do, compared with others: it has no atomic conditional writes, and its lists can lack objects while a device is away.
import { execFileSync, spawn } from "node:child_process";
import { randomBytes } from "node:crypto";
import { once } from "node:events";
import { existsSync } from "node:fs";
import { chmod, chown, mkdir, readFile, writeFile } from "node:fs/promises";
import { createServer } from "node:net";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";

/** Debian's own: another Python does not see its packages. */
const PYTHON = "/usr/bin/python3";
const DEVICES = 3;
const SERVICES = ["object", "container", "account", "proxy"];
const PIPELINE =
  "catch_errors gatekeeper healthcheck memcache listing_formats s3api tempauth bulk slo proxy-server";
const [LOGIN, SECRET] = ["observatory:larkholm", "ringing"];

/** What is missing to start one, as a sentence; undefined where nothing is. */
export function findMissing() {
  if (process.platform !== "linux") return "the object store of the tests runs on Linux";
  const packages = [];
  if (!existsSync("/usr/bin/memcached")) packages.push("memcached");
  try {
    execFileSync(PYTHON, ["-c", "import swift.proxy.server"], { stdio: "ignore" });
  } catch {
    packages.push("python3-swift");
  }
  return packages.length === 0
    ? undefined
    : `the object store is not installed: apt-get install --no-install-recommends ${packages.join(" ")}`;
}

/**
 * Starts the store in a folder, with a bucket in it. Gives the variables of the environment by which it is reached, and what stops it. Rejects
 * with what was wrong when it does not answer within a minute.
 */
export async function startObjectStore(folder, bucket = "larkholm") {
  const missing = findMissing();
  if (missing !== undefined) throw new Error(missing);
  const settings = await prepare(folder);
  const isRoot = process.getuid() === 0;
  const children = [];
  const stop = async () => {
    for (const child of children.reverse()) {
      if (child.exitCode !== null || child.signalCode !== null) continue;
      const ended = once(child, "exit");
      // Each leads a group of its own, with its workers.
      process.kill(-child.pid, "SIGTERM");
      await Promise.race([ended, wait(5000)]);
      if (child.exitCode === null && child.signalCode === null) process.kill(-child.pid, "SIGKILL");
    }
  };
  const start = (command, args) => {
    const as = isRoot ? ["setpriv", "--reuid=swift", "--regid=swift", "--clear-groups"] : [];
    const [program, ...rest] = [...as, command, ...args];
    children.push(spawn(program, rest, { detached: true, stdio: "ignore", cwd: folder }));
  };
  start("memcached", ["-l", "127.0.0.1", "-p", String(settings.memcached), "-U", "0", "-m", "32"]);
  for (const service of SERVICES)
    start(PYTHON, [join(folder, "launch.py"), service, join(folder, `${service}.conf`)]);
  const environment = {
    S3_ENDPOINT: `http://127.0.0.1:${settings.proxy}`,
    S3_REGION: "us-east-1",
    S3_ACCESS_KEY_ID: LOGIN,
    S3_SECRET_ACCESS_KEY: SECRET,
  };
  try {
    await waitUntilHealthy(settings, children);
    await makeBucket(environment, bucket);
  } catch (error) {
    await stop();
    throw error;
  }
  return { environment, place: `s3://${bucket}/site`, stop };
}

// The rings name the ports, so both stay as they are when the store is started again.
async function prepare(folder) {
  const file = join(folder, "settings.json");
  if (existsSync(file)) return JSON.parse(await readFile(file, "utf8"));
  await mkdir(folder, { recursive: true });
  await chmod(folder, 0o755);
  const names = ["proxy", "object", "container", "account", "memcached"];
  const settings = Object.fromEntries(await Promise.all(names.map(async (name) => [name, await findPort()])));
  await writeFile(
    join(folder, "swift.conf"),
    `[swift-constraints]\nmax_meta_overall_size = 2048\n[swift-hash]\nswift_hash_path_suffix = ${randomBytes(12).toString("hex")}\n`,
  );
  await writeFile(join(folder, "launch.py"), LAUNCH);
  for (let device = 1; device <= DEVICES; device++)
    await mkdir(join(folder, "devices", `d${device}`), { recursive: true });
  const rings = ["object", "container", "account"].flatMap((name) => [name, String(settings[name])]);
  execFileSync(PYTHON, [join(folder, "launch.py"), "rings", String(DEVICES), ...rings]);
  for (const service of SERVICES)
    await writeFile(join(folder, `${service}.conf`), configure(folder, service, settings));
  if (process.getuid() === 0) await giveAway(folder);
  await writeFile(file, JSON.stringify(settings));
  return settings;
}

function configure(folder, service, settings) {
  const lines = [
    "[DEFAULT]",
    "bind_ip = 127.0.0.1",
    `bind_port = ${settings[service]}`,
    `swift_dir = ${folder}`,
    "workers = 0",
    "log_level = ERROR",
    `devices = ${join(folder, "devices")}`,
    "mount_check = false",
    "fallocate_reserve = 0",
    `recon_cache_path = ${folder}`,
    "conn_timeout = 5",
    ...(process.getuid() === 0 ? ["user = swift"] : [`user = ${process.env.USER ?? "nobody"}`]),
  ];
  if (service !== "proxy")
    return [
      ...lines,
      "[pipeline:main]",
      `pipeline = healthcheck ${service}-server`,
      `[app:${service}-server]`,
      `use = egg:swift#${service}`,
      "[filter:healthcheck]",
      "use = egg:swift#healthcheck",
      "",
    ].join("\n");
  const filters = PIPELINE.split(" ").slice(0, -1);
  const more = {
    memcache: [`memcache_servers = 127.0.0.1:${settings.memcached}`],
    s3api: ["location = us-east-1"],
    tempauth: [`user_${LOGIN.replace(":", "_")} = ${SECRET} .admin`],
  };
  return [
    ...lines,
    "[pipeline:main]",
    `pipeline = ${PIPELINE}`,
    "[app:proxy-server]",
    "use = egg:swift#proxy",
    "account_autocreate = true",
    ...filters.flatMap((name) => [`[filter:${name}]`, `use = egg:swift#${name}`, ...(more[name] ?? [])]),
    "",
  ].join("\n");
}

/** What its own programs do, for a configuration that is not in /etc. */
const LAUNCH = `import sys
from swift.common import utils
utils.SWIFT_CONF_FILE = sys.path[0] + '/swift.conf'
if sys.argv[1] == 'rings':
    from swift.common.ring import RingBuilder
    devices, servers = int(sys.argv[2]), sys.argv[3:]
    for kind, port in zip(servers[::2], servers[1::2]):
        builder = RingBuilder(6, float(devices), 0)
        for number in range(1, devices + 1):
            builder.add_dev(dict(region=1, zone=number, ip='127.0.0.1', port=int(port), device='d%d' % number, weight=100.0, meta=''))
        builder.rebalance(seed='1')
        builder.get_ring().save('%s/%s.ring.gz' % (sys.path[0], kind))
else:
    from swift.common.wsgi import run_wsgi
    sys.exit(run_wsgi(sys.argv[2], sys.argv[1] + '-server'))
`;

async function giveAway(folder) {
  const [uid, gid] = ["-u", "-g"].map((flag) => Number(execFileSync("id", [flag, "swift"])));
  for (const name of [
    ".",
    "devices",
    ...Array.from({ length: DEVICES }, (_, index) => `devices/d${index + 1}`),
  ])
    await chown(join(folder, name), uid, gid);
}

async function findPort() {
  const server = createServer();
  server.listen(0, "127.0.0.1");
  await once(server, "listening");
  const { port } = server.address();
  server.close();
  return port;
}

async function waitUntilHealthy(settings, children) {
  for (let left = 240; ; left--) {
    const answers = await Promise.all(
      SERVICES.map((service) =>
        fetch(`http://127.0.0.1:${settings[service]}/healthcheck`).then(
          ({ ok }) => ok,
          () => false,
        ),
      ),
    );
    if (answers.every(Boolean)) return;
    const gone = children.find(({ exitCode }) => exitCode !== null);
    if (gone !== undefined || left === 0)
      throw new Error(
        `The object store ${gone === undefined ? "does not answer" : `ended (${gone.spawnargs.at(-1)})`}; the user swift must be able to reach its folder, and to write extended attributes there.`,
      );
    await wait(250);
  }
}

async function makeBucket({ S3_ENDPOINT: endpoint, ...keys }, bucket) {
  const { AwsClient } = await import("aws4fetch");
  const client = new AwsClient({
    accessKeyId: keys.S3_ACCESS_KEY_ID,
    secretAccessKey: keys.S3_SECRET_ACCESS_KEY,
    region: keys.S3_REGION,
    service: "s3",
    retries: 5,
  });
  const { status } = await client.fetch(`${endpoint}/${bucket}`, { method: "PUT" });
  if (status !== 200 && status !== 409) throw new Error(`The bucket ${bucket} cannot be made (${status}).`);
}
