import { escapePath, type FieldsToSend, mergeFields, type Question } from "../ask/ask.js";
import type { WrittenGroup, WrittenRequest, WrittenStep } from "./schema-case.js";

/** What a written request says, before a group has its say. */
interface Said {
  readonly method: string | undefined;
  readonly path: string | undefined;
  readonly headers: FieldsToSend;
  readonly body: string | undefined;
}

/** The requests of a case, one for each path: those that it writes, with what its group has for all. */
export function readRequests(
  written: WrittenRequest | WrittenStep["request"] | undefined,
  group: WrittenGroup | undefined,
  paths?: readonly string[],
): Question[] {
  const prefix = (group?.under ?? "").replace(/\/$/, "");
  return listSaid(written).flatMap((own) => {
    const body = own.body ?? group?.request?.body;
    const base = {
      method: own.method ?? group?.request?.method ?? "GET",
      headers: mergeFields<string | readonly string[]>(group?.request?.headers ?? {}, own.headers),
      ...(body !== undefined && { body }),
    };
    if (paths !== undefined) return paths.map((path): Question => ({ ...base, path }));
    return own.path === undefined ? [] : [withTarget(base, own.path, prefix)];
  });
}

// The absolute form goes over its own socket: a client has no place for it.
function withTarget(base: Omit<Question, "path">, path: string, prefix: string): Question {
  if (path === "*") return { ...base, path };
  if (/^https?:/i.test(path)) return { ...base, path: escapePath(path), ownSocket: true };
  return { ...base, path: escapePath(path.startsWith("/") ? prefix + path : path) };
}

function listSaid(written: WrittenRequest | WrittenStep["request"] | undefined): Said[] {
  if (written === undefined) return [{ method: undefined, path: undefined, headers: {}, body: undefined }];
  if (typeof written === "string" || Array.isArray(written)) return [written].flat().map(readLine);
  const { method, headers = {}, body, path } = written;
  const paths = path === undefined ? [undefined] : [path].flat();
  return paths.map((one) => ({ method, path: one, headers, body }));
}

function readLine(line: string): Said {
  const [first, second] = line.split(" ");
  return second === undefined
    ? { method: undefined, path: first!, headers: {}, body: undefined }
    : { method: first!, path: second, headers: {}, body: undefined };
}
