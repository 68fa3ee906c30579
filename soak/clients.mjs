import { Agent, request } from "node:http";
import { setTimeout as wait } from "node:timers/promises";
import { brotliDecompressSync, gunzipSync } from "node:zlib";

const UNDO = { br: brotliDecompressSync, gzip: gunzipSync };
const pick = (all) => all[Math.floor(Math.random() * all.length)];

/** Clients of several kinds, each of which asks again and again until it is told to stop, and holds what it gets against what existed. */
export class Clients {
  #port;
  #versions;
  #agent = new Agent({ keepAlive: true, maxSockets: 64 });
  #tags = new Map();
  #stopped = false;
  counts = new Map();
  wrong = [];

  constructor(port, versions) {
    this.#port = port;
    this.#versions = versions;
  }

  start() {
    const kinds = {
      whole: 8,
      coded: 4,
      part: 4,
      revisit: 4,
      head: 1,
      leave: 3,
      slow: 2,
      missing: 2,
      listing: 2,
      reset: 1,
    };
    for (const [kind, count] of Object.entries(kinds))
      for (let i = 0; i < count; i++) void this.#repeat(kind);
  }

  stop() {
    this.#stopped = true;
    this.#agent.destroy();
  }

  async #repeat(kind) {
    while (!this.#stopped) {
      const name = pick(this.#versions.names);
      try {
        await this[kind](name);
      } catch (error) {
        if (this.#stopped) return;
        this.wrong.push(`${kind} ${name}: ${error.message}`);
        await wait(100);
      }
      this.counts.set(kind, (this.counts.get(kind) ?? 0) + 1);
      await wait(2);
    }
  }

  #ask(path, headers = {}, method = "GET") {
    return new Promise((resolve, reject) => {
      const asked = request({
        port: this.#port,
        host: "127.0.0.1",
        agent: this.#agent,
        path: encodeURI(`/${path}`),
        method,
        headers,
      });
      asked.on("response", resolve).on("error", reject).end();
    });
  }

  async #read(response) {
    const chunks = [];
    for await (const chunk of response) chunks.push(chunk);
    return Buffer.concat(chunks);
  }

  // A file that is exchanged after its head was sent is still sent as it was.
  #check(name, bytes, status) {
    if (!this.#versions.existed(name, bytes))
      throw new Error(`${status} with ${bytes.length} bytes that never existed`);
  }

  async whole(name) {
    const response = await this.#ask(name);
    this.#check(name, await this.#read(response), response.statusCode);
  }

  async coded(name) {
    const response = await this.#ask(name, { "Accept-Encoding": pick(["br, gzip", "gzip"]) });
    const bytes = await this.#read(response);
    const undo = UNDO[response.headers["content-encoding"]] ?? ((same) => same);
    // A sibling in a coding is exchanged a moment before its file; what it held until then existed, too.
    this.#check(name, undo(bytes), response.statusCode);
  }

  async part(name) {
    const head = await this.#ask(name, {}, "HEAD");
    head.resume();
    const size = Number(head.headers["content-length"]);
    if (size < 10) return;
    const ranges = [`bytes=0-${(size >> 1) - 1}`, `bytes=${size >> 1}-`];
    const parts = [];
    for (const range of ranges) {
      const response = await this.#ask(name, { Range: range, "If-Range": head.headers.etag });
      const bytes = await this.#read(response);
      // It was exchanged: the whole of the new one comes.
      if (response.statusCode === 200) return this.#check(name, bytes, 200);
      parts.push(bytes);
    }
    this.#check(name, Buffer.concat(parts), 206);
  }

  async revisit(name) {
    const kept = this.#tags.get(name);
    const response = await this.#ask(name, kept === undefined ? {} : { "If-None-Match": kept.tag });
    const bytes = await this.#read(response);
    if (response.statusCode === 304) return this.#check(name, kept.bytes, 304);
    this.#check(name, bytes, response.statusCode);
    this.#tags.set(name, { tag: response.headers.etag, bytes });
  }

  async head(name) {
    const bytes = await this.#read(await this.#ask(name, {}, "HEAD"));
    if (bytes.length > 0) throw new Error("a body with HEAD");
  }

  async leave(name) {
    const response = await this.#ask(name);
    response.on("error", () => {});
    await wait(Math.random() * 5);
    response.destroy();
  }

  async slow(name) {
    const response = await this.#ask(name);
    const chunks = [];
    for await (const chunk of response) {
      chunks.push(chunk);
      await wait(3);
    }
    this.#check(name, Buffer.concat(chunks), response.statusCode);
  }

  async missing(name) {
    const response = await this.#ask(`${name}/none-${Math.random()}`);
    const text = (await this.#read(response)).toString();
    if (response.statusCode !== 404 || !text.includes("Not here"))
      throw new Error(`${response.statusCode} for what is not there`);
  }

  async listing() {
    const response = await this.#ask(`archive/${Math.floor(Math.random() * 30)}/`, {
      Accept: pick(["text/html", "application/json"]),
    });
    const text = (await this.#read(response)).toString();
    if (response.statusCode !== 200 || text.split("sighting ").length < 100)
      throw new Error(`${response.statusCode}, a listing that is not whole`);
  }

  async reset(name) {
    const response = await this.#ask(name);
    response.on("error", () => {});
    response.socket.resetAndDestroy();
    await wait(1);
  }
}
