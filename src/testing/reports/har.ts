import { STATUS_CODES } from "node:http";
import { formatFieldName } from "../../core/fields/grammar.js";
import { printableJson } from "../../core/text/printable.js";
import { listSent } from "../ask/ask.js";
import type { Exchange } from "../run.js";
import type { Run } from "./run.js";

type Pair = { name: string; value: string };

/** What was asked and what came back, as HAR 1.2: a browser's network panel opens it. */
export function reportHar(runs: readonly Run[], version: string): string {
  const pages = runs.map(({ title, about, startedAt, milliseconds }, index) => ({
    startedDateTime: new Date(startedAt).toISOString(),
    id: `run-${index + 1}`,
    title: `${title}, ${about}`,
    pageTimings: { onContentLoad: -1, onLoad: milliseconds },
  }));
  const entries = runs.flatMap(({ address, results }, index) =>
    results.flatMap(({ case: { name }, exchanges }) =>
      exchanges
        .filter(({ reply, because }) => reply !== undefined || because !== undefined)
        .map((exchange) => toEntry(exchange, address, `run-${index + 1}`, name)),
    ),
  );
  const log = { version: "1.2", creator: { name: "epistyle check", version }, pages, entries };
  return `${printableJson({ log }, 2)}\n`;
}

function toEntry(exchange: Exchange, address: string, pageref: string, caseName: string): object {
  const { question, reply, milliseconds, startedAt, because, differences } = exchange;
  const { path, body } = question;
  const url = new URL(path.startsWith("/") ? address + path : path === "*" ? `${address}/` : path);
  const comment = [
    exchange.name === undefined ? caseName : `${caseName}, ${exchange.name}`,
    because,
    ...differences.map(({ about, expected, got }) => `${about}: expected ${expected}, got ${got}`),
  ];
  return {
    pageref,
    startedDateTime: new Date(startedAt).toISOString(),
    time: milliseconds,
    request: {
      method: question.method,
      // The panel shows the address as it was sent, dot segments and all.
      url: path.startsWith("/") ? address + path : url.href,
      httpVersion: "HTTP/1.1",
      cookies: [],
      headers: listSent(question.headers).map(([name, value]): Pair => ({ name, value })),
      ...(body !== undefined && { postData: { mimeType: "text/plain", params: [], text: body } }),
      queryString: [...url.searchParams].map(([name, value]) => ({ name, value })),
      headersSize: -1,
      bodySize: Buffer.byteLength(body ?? ""),
    },
    response: {
      // A request without an answer has the status 0, as browsers write it.
      status: reply?.status ?? 0,
      statusText: reply === undefined ? "" : (STATUS_CODES[reply.status] ?? ""),
      httpVersion: "HTTP/1.1",
      cookies: [],
      headers: Object.entries(reply?.headers ?? {}).map(([name, value]) => ({
        name: formatFieldName(name),
        value,
      })),
      content: {
        size: reply?.bodyBytes ?? 0,
        mimeType: reply?.headers["content-type"] ?? "x-unknown",
        ...(reply?.text !== undefined && { text: reply.text }),
      },
      redirectURL: reply?.headers.location ?? "",
      headersSize: -1,
      bodySize: reply?.bodyBytes ?? -1,
    },
    cache: {},
    timings: { send: 0, wait: milliseconds, receive: 0 },
    comment: comment.filter(Boolean).join("\n"),
  };
}
