// Yardstick 2, what an engineer writes by hand: stat, header fields, a read stream piped.
// Usage: node handwritten.mjs FOLDER PORT
import { createReadStream } from "node:fs";
import { stat } from "node:fs/promises";
import { createServer } from "node:http";
import { extname, join, normalize } from "node:path";

const [, , folder, port] = process.argv;
const types = {
  ".html": "text/html; charset=utf-8",
  ".bin": "application/octet-stream",
  ".css": "text/css; charset=utf-8",
};

createServer(async (request, response) => {
  try {
    const path = normalize(decodeURIComponent(new URL(request.url, "http://localhost").pathname));
    const file = join(folder, path.endsWith("/") ? `${path}index.html` : path);
    const stats = await stat(file);
    const tag = `"${stats.size.toString(16)}-${stats.mtimeMs.toString(16)}"`;
    response.setHeader("Cache-Control", "no-cache");
    response.setHeader("ETag", tag);
    response.setHeader("Last-Modified", stats.mtime.toUTCString());
    if (request.headers["if-none-match"] === tag) {
      response.statusCode = 304;
      response.end();
      return;
    }
    response.setHeader("Content-Type", types[extname(file)] ?? "application/octet-stream");
    response.setHeader("Content-Length", stats.size);
    response.setHeader("X-Content-Type-Options", "nosniff");
    createReadStream(file).pipe(response);
  } catch {
    response.statusCode = 404;
    response.setHeader("Content-Type", "text/plain; charset=utf-8");
    response.end("Not found");
  }
}).listen(Number(port), "127.0.0.1", () => console.log("ready"));
