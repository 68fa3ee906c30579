// A right server, written for the bank over bare sockets, so that every fault can be planted. It has many right styles.
import { createServer } from "node:net";
import { MODIFIED, SITE } from "./site.mjs";

/** The style that others depart from. All of them are right. */
const PLAIN = {
  tags: "strong", // strong | weak | none
  dates: true,
  freshness: "cache-control", // cache-control | expires
  coding: "fly", // fly | prebuilt (br alone) | none
  ranges: true,
  multipart: false, // several ranges are answered with several parts
  cors: false, // other origins may read everything
  location: "relative", // relative | absolute
  framing: "length", // length | chunked
  keepAlive: true,
  lengthOn304: false,
  shell: false,
  listing: false,
  fieldCase: "train", // train | lower
  secure: false, // says what counts over TLS, which a proxy adds
  bare: false, // says only what it has to: no nosniff, no charset, the older name of scripts
};

/**
 * Starts a server in a style. A fault may change the site, the request `before` it is answered, and the answer `after`:
 * { status, fields, body }, and for the wire { http, head, keepBody, cutAfter, extra, cut }. Gives its address and how to stop it.
 */
export async function startServer(style = {}, { site = SITE, before, after } = {}) {
  const all = { ...PLAIN, ...style };
  const sockets = new Set();
  const server = createServer((socket) => {
    sockets.add(socket);
    socket.setNoDelay(true);
    let text = "";
    let turn = Promise.resolve();
    const origin = `http://127.0.0.1:${server.address().port}`;
    const serve = async (request) => {
      before?.(request);
      const answer = respond(all, site, request, origin);
      await after?.(answer, { ...request, origin });
      if (socket.destroyed) return;
      if (answer.cut === true) socket.destroy();
      else send(socket, all, request, answer);
    };
    socket.on("error", () => {}).on("close", () => sockets.delete(socket));
    socket.on("data", (chunk) => {
      text += chunk.toString("latin1");
      for (let end = text.indexOf("\r\n\r\n"); end >= 0; end = text.indexOf("\r\n\r\n")) {
        const request = readRequest(text.slice(0, end));
        text = text.slice(end + 4 + Number(request.headers["content-length"] ?? 0));
        turn = turn.then(() => serve(request));
      }
    });
  });
  await new Promise((done) => server.listen(0, "127.0.0.1", done));
  return {
    url: `http://127.0.0.1:${server.address().port}/`,
    stop() {
      for (const socket of sockets) socket.destroy();
      server.close();
    },
  };
}

function readRequest(head) {
  const [line, ...lines] = head.split("\r\n");
  const [method, target] = line.split(" ");
  const headers = {};
  for (const one of lines) {
    const colon = one.indexOf(":");
    headers[one.slice(0, colon).toLowerCase()] = one.slice(colon + 1).trim();
  }
  return { method, target, headers };
}

/** RFC 9110, as far as a static site needs it. */
function respond(style, site, { method, target, headers }, origin) {
  const error = (status, text, more = {}) => ({
    status,
    fields: {
      "Content-Type": "text/plain; charset=utf-8",
      "Cache-Control": "no-cache",
      "X-Content-Type-Options": "nosniff",
      ...more,
    },
    body: Buffer.from(text),
  });
  if (method === "OPTIONS")
    return { status: 204, fields: { Allow: "GET, HEAD, OPTIONS" }, body: Buffer.alloc(0) };
  if (method !== "GET" && method !== "HEAD")
    return error(405, "Not allowed here.\n", { Allow: "GET, HEAD, OPTIONS" });
  const path = readPath(target);
  if (path === undefined) return error(400, "This address cannot be read.\n");
  if (path === "*") return error(400, "This address cannot be read.\n");
  if (site.has(`${path}/index.html`)) {
    const query = target.includes("?") ? target.slice(target.indexOf("?")) : "";
    const to = `${path}/${query}`;
    return error(301, "It is there.\n", { Location: style.location === "absolute" ? origin + to : to });
  }
  let file = site.get(path.endsWith("/") ? `${path}index.html` : path);
  const isNavigation =
    (headers["sec-fetch-mode"] ?? (/text\/html/.test(headers.accept ?? "") ? "navigate" : "")) === "navigate";
  let isShell = false;
  if (
    file === undefined &&
    style.shell &&
    path.startsWith("/explorer/") &&
    isNavigation &&
    !/\.[a-z0-9]+$/i.test(path)
  ) {
    file = site.get("/explorer/index.html");
    isShell = true;
  }
  if (file === undefined && style.listing && path === "/records/") return listing(site);
  if (
    file === undefined &&
    [...site.keys()].some((one) => one.startsWith(path.endsWith("/") ? path : `${path}/`)) &&
    path.endsWith("/")
  )
    return error(403, "Not open to visitors.\n");
  if (file === undefined) {
    const page = site.get("/404.html");
    const varies = style.shell && path.startsWith("/explorer/") ? { Vary: "Accept, Sec-Fetch-Mode" } : {};
    return { ...error(404, "", { "Content-Type": page.type, ...varies }), body: page.bytes };
  }
  return represent(style, file, { method, headers, isShell });
}

function readPath(target) {
  if (target === "*") return target;
  const raw = target.replace(/^http:\/\/[^/]*/, "").replace(/[?#].*$/s, "");
  if (!raw.startsWith("/") || /%2f|%5c|%00|\\/i.test(raw)) return undefined;
  let path;
  try {
    path = decodeURIComponent(raw);
  } catch {
    return undefined;
  }
  if (/[\0-\x1f]/.test(path) || path.split("/").some((name) => name === ".." || name === "."))
    return undefined;
  return path;
}

function represent(style, file, { method, headers, isShell }) {
  const older = file.type
    .replace(/; charset=utf-8$/, "")
    .replace("text/javascript", "application/javascript");
  const fields = style.bare
    ? { "Content-Type": older }
    : { "Content-Type": file.type, "X-Content-Type-Options": "nosniff" };
  const isKept = /-[0-9a-f]{8}\./.test(file.path);
  if (style.secure) fields["Strict-Transport-Security"] = "max-age=63072000";
  if (style.cors) fields["Access-Control-Allow-Origin"] = "*";
  if (style.freshness === "expires") {
    fields.Expires = new Date(Date.now() + (isKept ? 365 : 0) * 86_400_000).toUTCString();
  } else fields["Cache-Control"] = isKept ? "public, max-age=31536000, immutable" : "no-cache";
  let coding;
  const offered = style.coding === "fly" ? ["br", "gzip"] : style.coding === "prebuilt" ? ["br"] : [];
  if (file.isText && file.bytes.length >= 1024 && offered.length > 0) {
    fields.Vary =
      isShell || (style.shell && file.path.startsWith("/explorer/"))
        ? "Accept, Sec-Fetch-Mode, Accept-Encoding"
        : "Accept-Encoding";
    coding = chooseCoding(headers["accept-encoding"], offered);
  } else if (isShell) fields.Vary = "Accept, Sec-Fetch-Mode";
  const bytes = coding === undefined ? file.bytes : file.coded[coding];
  if (coding !== undefined) fields["Content-Encoding"] = coding;
  if (style.tags === "strong") fields.ETag = `"${file.tag}${coding === undefined ? "" : `-${coding}`}"`;
  if (style.tags === "weak") fields.ETag = `W/"${file.tag}"`;
  if (style.dates) fields["Last-Modified"] = MODIFIED;
  if (style.ranges) fields["Accept-Ranges"] = "bytes";
  const early = evaluate(headers, fields);
  if (early === 412)
    return {
      status: 412,
      fields: {
        "Content-Type": "text/plain; charset=utf-8",
        "X-Content-Type-Options": "nosniff",
        "Cache-Control": "no-cache",
      },
      body: Buffer.from("It has changed.\n"),
    };
  if (early === 304) {
    const {
      "Content-Type": _,
      "Accept-Ranges": __,
      "X-Content-Type-Options": ___,
      "Content-Encoding": ____,
      ...kept
    } = fields;
    if (style.lengthOn304) kept["Content-Length"] = String(bytes.length);
    return { status: 304, fields: kept, body: Buffer.alloc(0) };
  }
  if (
    method === "GET" &&
    style.ranges &&
    headers.range !== undefined &&
    ifRangeHolds(headers["if-range"], fields)
  ) {
    const part =
      (style.multipart && cutSeveral(headers.range, bytes, fields)) || cut(headers.range, bytes, fields);
    if (part !== undefined) return part;
  }
  return { status: 200, fields, body: bytes };
}

function chooseCoding(accept, offered) {
  if (accept === undefined) return undefined;
  const weights = new Map(
    accept.split(",").map((one) => {
      const [name, ...parameters] = one.trim().split(";");
      const q = parameters.map((p) => /^\s*q=([\d.]+)/.exec(p)?.[1]).find((v) => v !== undefined);
      return [name.trim().toLowerCase(), q === undefined ? 1 : Number(q)];
    }),
  );
  const weigh = (name) => weights.get(name) ?? weights.get("*") ?? 0;
  const best = [...offered].sort((a, b) => weigh(b) - weigh(a))[0];
  return weigh(best) > 0 ? best : undefined;
}

const weakly = (tag) => tag?.replace(/^W\//, "");

// RFC 9110 §13.2.2.
function evaluate(headers, { ETag: tag, "Last-Modified": date }) {
  const lists = (field) => field.split(",").map((one) => one.trim());
  const seconds = date === undefined ? undefined : Date.parse(date);
  if (headers["if-match"] !== undefined) {
    if (
      headers["if-match"] !== "*" &&
      (tag === undefined || tag.startsWith("W/") || !lists(headers["if-match"]).includes(tag))
    )
      return 412;
  } else if (headers["if-unmodified-since"] !== undefined && seconds !== undefined) {
    const until = Date.parse(headers["if-unmodified-since"]);
    if (!Number.isNaN(until) && seconds > until) return 412;
  }
  if (headers["if-none-match"] !== undefined) {
    if (headers["if-none-match"] === "*") return 304;
    return tag !== undefined && lists(headers["if-none-match"]).map(weakly).includes(weakly(tag))
      ? 304
      : undefined;
  }
  if (headers["if-modified-since"] !== undefined && seconds !== undefined) {
    const since = Date.parse(headers["if-modified-since"]);
    if (!Number.isNaN(since) && /GMT$/.test(headers["if-modified-since"]) && seconds <= since) return 304;
  }
  return undefined;
}

function ifRangeHolds(ifRange, { ETag: tag, "Last-Modified": date }) {
  if (ifRange === undefined) return true;
  if (/^(?:W\/)?"/.test(ifRange)) return ifRange === tag && !tag.startsWith("W/");
  return ifRange === date;
}

function cut(range, bytes, fields) {
  const match = /^bytes=(\d*)-(\d*)$/.exec(range);
  if (match === null || (match[1] === "" && match[2] === "")) return undefined;
  const from = match[1] === "" ? Math.max(0, bytes.length - Number(match[2])) : Number(match[1]);
  const to =
    match[1] === "" || match[2] === "" ? bytes.length - 1 : Math.min(Number(match[2]), bytes.length - 1);
  if (from >= bytes.length)
    return {
      status: 416,
      fields: {
        "Content-Range": `bytes */${bytes.length}`,
        "Content-Type": "text/plain; charset=utf-8",
        "X-Content-Type-Options": "nosniff",
        "Cache-Control": "no-cache",
      },
      body: Buffer.from("No such part.\n"),
    };
  if (from > to) return undefined;
  return {
    status: 206,
    fields: { ...fields, "Content-Range": `bytes ${from}-${to}/${bytes.length}` },
    body: bytes.subarray(from, to + 1),
  };
}

// RFC 9110 §15.3.7.2, §14.6.
function cutSeveral(range, bytes, fields) {
  const parts = /^bytes=\d+-\d+(?:, *\d+-\d+){1,4}$/.test(range)
    ? [...range.matchAll(/(\d+)-(\d+)/g)].map((match) => [Number(match[1]), Number(match[2])])
    : [];
  if (parts.length === 0 || parts.some(([from, to]) => from > to || to >= bytes.length)) return undefined;
  const boundary = "larkholm4f1d";
  const { "Content-Type": type, ...others } = fields;
  const pieces = parts.flatMap(([from, to]) => [
    Buffer.from(
      `\r\n--${boundary}\r\nContent-Type: ${type}\r\nContent-Range: bytes ${from}-${to}/${bytes.length}\r\n\r\n`,
    ),
    bytes.subarray(from, to + 1),
  ]);
  return {
    status: 206,
    fields: { ...others, "Content-Type": `multipart/byteranges; boundary=${boundary}` },
    body: Buffer.concat([...pieces, Buffer.from(`\r\n--${boundary}--\r\n`)]),
  };
}

const escapeText = (text) => text.replace(/&/g, "&amp;").replace(/</g, "&lt;");

function listing(site) {
  const names = [...site.keys()].filter((one) => one.startsWith("/records/")).map((one) => one.slice(9));
  const links = names.map((name) => `<a href="${encodeURIComponent(name)}">${escapeText(name)}</a>`);
  return {
    status: 200,
    fields: {
      "Content-Type": "text/html; charset=utf-8",
      "Cache-Control": "no-cache",
      "X-Content-Type-Options": "nosniff",
    },
    body: Buffer.from(
      `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Records</title></head><body><a href="../">Up</a>${links.join("")}</body></html>`,
    ),
  };
}

function send(socket, style, { method, headers }, answer) {
  const { status, fields, body, http = "HTTP/1.1", head = "", keepBody = false, cutAfter, extra } = answer;
  const hasBody = keepBody || (method !== "HEAD" && status !== 304 && status !== 204);
  const all = { Date: new Date().toUTCString(), ...fields };
  if (
    status !== 304 &&
    status !== 204 &&
    !("Content-Length" in all) &&
    all["Transfer-Encoding"] === undefined
  ) {
    if (style.framing === "chunked" && method !== "HEAD") all["Transfer-Encoding"] = "chunked";
    else if (style.framing !== "chunked") all["Content-Length"] = String(body.length);
  }
  all.Connection ??= style.keepAlive && headers.connection !== "close" ? "keep-alive" : "close";
  const name = (one) => (style.fieldCase === "lower" ? one.toLowerCase() : one);
  const lines = Object.entries(all).flatMap(([key, value]) =>
    [value]
      .flat()
      .filter((one) => one !== undefined)
      .map((one) => `${name(key)}: ${one}\r\n`),
  );
  socket.write(`${http} ${status} ${"OK"}\r\n${lines.join("")}${head}\r\n`, "latin1");
  if (hasBody && all["Transfer-Encoding"] === "chunked") {
    const half = Math.ceil(body.length / 2);
    for (const piece of [body.subarray(0, half), body.subarray(half)])
      if (piece.length > 0)
        socket.write(
          Buffer.concat([Buffer.from(`${piece.length.toString(16)}\r\n`), piece, Buffer.from("\r\n")]),
        );
    if (cutAfter === undefined) socket.write("0\r\n\r\n");
  } else if (hasBody) socket.write(cutAfter === undefined ? body : body.subarray(0, cutAfter));
  if (extra !== undefined) socket.write(extra);
  if (all.Connection === "close" || cutAfter !== undefined) socket.end();
}
