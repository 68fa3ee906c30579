// Yardstick 1, the platform's ceiling: bare node:http with the same fields, from memory, no decision taken.
// Usage: node ceiling.mjs ANSWERS.json PORT, where the answers are { path: { status, fields, file?, unless? } }.
import { readFileSync } from "node:fs";
import { createServer } from "node:http";

const [, , answersFile, port] = process.argv;
const answers = new Map();
for (const [path, { status, fields, file, body, notModified }] of Object.entries(
  JSON.parse(readFileSync(answersFile, "utf8")),
)) {
  answers.set(path, {
    status,
    fields,
    notModified,
    bytes: file ? readFileSync(file) : Buffer.from(body ?? ""),
  });
}

createServer((request, response) => {
  const coded =
    request.headers["accept-encoding"] === undefined ? undefined : answers.get(`${request.url}#br`);
  const { status, fields, bytes, notModified } =
    coded ?? answers.get(request.url) ?? answers.get("/missing.html");
  if (request.headers["if-none-match"] !== undefined) {
    response.writeHead(304, notModified);
    response.end();
    return;
  }
  response.writeHead(status, fields);
  response.end(bytes);
}).listen(Number(port), "127.0.0.1", () => console.log("ready"));
