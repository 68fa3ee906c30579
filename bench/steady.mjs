// A steady load: so many requests a second, whatever the server does, each timed from the moment it was due.
// Usage: node steady.mjs PORT PATH RATE SECONDS. Prints milliseconds: { p50, p99, worst }.
import { connect } from "node:net";

const [, , port, path, rate, seconds] = process.argv;
const CONNECTIONS = 24;
const request = `GET ${path} HTTP/1.1\r\nHost: localhost\r\n\r\n`;
const times = [];
const free = [];
const due = [];

function open() {
  const socket = connect({ port: Number(port), host: "127.0.0.1", noDelay: true });
  let left = -1;
  let head = "";
  let startedAt = 0;
  const send = (at) => {
    startedAt = at;
    socket.write(request);
  };
  socket.on("data", (chunk) => {
    if (left < 0) {
      head += chunk.toString("latin1");
      const end = head.indexOf("\r\n\r\n");
      if (end < 0) return;
      left = Number(/content-length: (\d+)/i.exec(head)[1]) - (head.length - end - 4);
      head = "";
    } else left -= chunk.length;
    if (left > 0) return;
    left = -1;
    times.push(performance.now() - startedAt);
    const next = due.shift();
    if (next === undefined) free.push(send);
    else send(next);
  });
  socket.on("connect", () => free.push(send));
}
for (let i = 0; i < CONNECTIONS; i++) open();
await new Promise((done) => setTimeout(done, 200));

const began = performance.now();
const total = Number(rate) * Number(seconds);
let sent = 0;
const tick = setInterval(() => {
  const now = performance.now() - began;
  for (; sent < total && (sent * 1000) / Number(rate) <= now; sent++) {
    const at = began + (sent * 1000) / Number(rate);
    const send = free.pop();
    if (send === undefined) due.push(at);
    else send(at);
  }
  if (times.length < total && now < Number(seconds) * 1000 + 5000) return;
  clearInterval(tick);
  const sorted = times.slice(Math.min(500, times.length >> 2)).sort((a, b) => a - b);
  const at = (share) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))];
  console.log(JSON.stringify({ p50: at(0.5), p99: at(0.99), worst: at(1) }));
  process.exit();
}, 1);
