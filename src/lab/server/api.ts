import type { IncomingMessage, ServerResponse } from "node:http";
import * as z from "zod";
import { formatProblem, validate } from "../../config/problems.js";
import type { Watch } from "./watch.js";
import type { Workspace } from "./workspace.js";

/** More is not read of what the page sends, in bytes. */
const BODY_AT_MOST = 4 * 1024 * 1024;

const text = z.strictObject({ text: z.string() });
/** A text, and what it was made from: what the file said then, or null if there was none. */
const edited = z.strictObject({ text: z.string(), base: z.string().nullable() });
const question = z.strictObject({
  method: z.string().regex(/^[!#$%&'*+\-.^_`|~\w]{1,40}$/, { error: "a method is a word: write GET" }),
  target: z.string().min(1).max(16_384),
  as: z.string(),
  headers: z.record(z.string(), z.string()),
  behind: z.boolean(),
});
const draft = z.strictObject({ text: z.string(), question });
/** With progress, the answer is lines of JSON: how far it has come, and at last the outcome. */
const preview = z.strictObject({ text: z.string(), progress: z.boolean().optional() });
const folder = z.strictObject({ mount: z.int().min(0), path: z.string() });

/** What can be asked, each with what it takes. */
const CALLS: Readonly<
  Record<string, (workspace: Workspace, given: unknown, tell: (line: unknown) => void) => unknown>
> = {
  info: (workspace) => workspace.info(),
  folder: (workspace, given) => {
    const { mount, path } = read(folder, given);
    return workspace.folder(mount, path);
  },
  search: (workspace, given) => workspace.search(read(text, given).text),
  ask: (workspace, given) => workspace.ask(read(question, given)),
  "ask-draft": (workspace, given) => {
    const { text, question: asked } = read(draft, given);
    return workspace.askDraft(text, asked);
  },
  preview: (workspace, given, tell) => {
    const { text, progress = false } = read(preview, given);
    return workspace.preview(text, progress ? tell : undefined);
  },
  save: (workspace, given) => workspace.save(read(edited, given)),
  "draft-case": async (workspace, given) => ({ text: await workspace.draftCase(read(question, given)) }),
  check: (workspace, given) => workspace.check(read(text, given).text),
  "save-expectations": (workspace, given) => workspace.saveExpectations(read(edited, given)),
};

/** Answers a call of the page, below `/api/`. */
export async function answerCall(
  name: string,
  request: IncomingMessage,
  response: ServerResponse,
  { workspace, watch }: { readonly workspace: Workspace; readonly watch: Watch },
): Promise<void> {
  if (name === "watch" && request.method === "GET") return tellAll(request, response, watch);
  const call = Object.hasOwn(CALLS, name) ? CALLS[name] : undefined;
  if (call === undefined) return send(response, 404, { problem: `The lab has no call ${name}.` });
  // A form of another page cannot send this type without asking first.
  if (request.method !== "POST" || request.headers["content-type"] !== "application/json")
    return send(response, 405, { problem: "Calls are made with POST and JSON." });
  try {
    const given: unknown = JSON.parse(await readBody(request));
    const value = await call(workspace, given, (line) => sendLine(response, line));
    if (response.headersSent) response.end(JSON.stringify(value));
    else send(response, 200, value);
  } catch (error) {
    const value = { problem: (error as Error).message };
    if (response.headersSent) response.end(JSON.stringify(value));
    else send(response, 400, value);
  }
}

function read<Schema extends z.ZodType>(schema: Schema, given: unknown): z.output<Schema> {
  const result = validate(schema, given);
  if (!result.ok) throw new Error(result.problems.map(formatProblem).join("\n"));
  return result.value;
}

async function readBody(request: IncomingMessage): Promise<string> {
  const pieces: Buffer[] = [];
  let length = 0;
  for await (const piece of request as AsyncIterable<Buffer>) {
    length += piece.length;
    // Read to its end all the same, while that is soon: whoever still writes reads no answer.
    if (length > 4 * BODY_AT_MOST) request.destroy();
    if (length <= BODY_AT_MOST) pieces.push(piece);
  }
  if (length > BODY_AT_MOST) throw new Error("The text is longer than the lab takes (4 MiB).");
  return Buffer.concat(pieces).toString("utf8");
}

const FIELDS = { "Cache-Control": "no-store", "X-Content-Type-Options": "nosniff" };

function send(response: ServerResponse, status: number, value: unknown): void {
  if (response.destroyed) return;
  response.writeHead(status, { "Content-Type": "application/json", ...FIELDS });
  response.end(JSON.stringify(value ?? null));
}

function sendLine(response: ServerResponse, value: unknown): void {
  if (response.destroyed) return;
  if (!response.headersSent) response.writeHead(200, { "Content-Type": "application/x-ndjson", ...FIELDS });
  response.write(`${JSON.stringify(value)}\n`);
}

/** A page that reads too slowly is told no more until it has read this much, in bytes. */
const UNREAD_AT_MOST = 1024 * 1024;

// HTML §9.2: events, while the page is open.
function tellAll(request: IncomingMessage, response: ServerResponse, watch: Watch): void {
  response.writeHead(200, { "Content-Type": "text/event-stream", "Cache-Control": "no-store" });
  response.write(": watching\n\n");
  let missed = 0;
  const stop = watch.follow((told) => {
    if (told === "changed") response.write("event: changed\ndata: {}\n\n");
    else if (response.writableLength > UNREAD_AT_MOST) missed++;
    else {
      if (missed > 0) response.write(`event: missed\ndata: ${missed}\n\n`);
      missed = 0;
      response.write(`data: ${JSON.stringify(told)}\n\n`);
    }
  });
  if (stop === undefined) response.end("event: full\ndata: {}\n\n");
  request.on("close", () => stop?.());
}
