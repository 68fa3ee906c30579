import { createHash } from "node:crypto";
import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";

/** What goes wrong with a request: its answer is cut, has other bytes, is longer, fails, or never comes. */
export type Fault = "cut" | "wrong" | "longer" | "503" | "403" | "hang" | "reset";

/** As much of an object store over the S3 protocol as a release store needs, in memory, with faults on demand. */
export interface ObjectServer {
  readonly environment: Readonly<Record<string, string>>;
  readonly objects: Map<string, Buffer>;
  /** Each request as "GET key", with its range. */
  readonly requests: string[];
  fault: (request: string) => Fault | undefined;
  close(): Promise<void>;
}

export async function startObjectServer(bucket = "larkholm"): Promise<ObjectServer> {
  const objects = new Map<string, Buffer>();
  const requests: string[] = [];
  const made: ObjectServer = {
    environment: {},
    objects,
    requests,
    fault: () => undefined,
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
  const server = createServer(async (request, response) => {
    const { pathname, searchParams } = new URL(request.url!, "http://store.invalid");
    const [, found, ...rest] = decodeURIComponent(pathname).split("/");
    const key = rest.join("/");
    const range = /^bytes=(\d+)-(\d+)$/.exec(request.headers.range ?? "");
    const body = await readAll(request);
    const asked = [request.method, key, range?.[0]].filter(Boolean).join(" ");
    requests.push(asked);
    if (!request.headers.authorization?.includes("AWS4-HMAC-SHA256"))
      return fail(response, 403, "AccessDenied");
    if (found !== bucket) return fail(response, 404, "NoSuchBucket");
    const fault = made.fault(asked);
    if (fault === "hang") return undefined;
    if (fault === "reset") return request.socket.destroy();
    if (fault === "503" || fault === "403")
      return fail(response, Number(fault), fault === "503" ? "SlowDown" : "AccessDenied");
    if (key === "" && request.method === "GET") return list(response, objects, searchParams);
    if (request.method === "PUT") {
      if (createHash("sha256").update(body).digest("hex") !== request.headers["x-amz-content-sha256"])
        return fail(response, 400, "BadDigest");
      objects.set(key, body);
      return response.writeHead(200).end();
    }
    const object = objects.get(key);
    if (request.method === "DELETE") {
      objects.delete(key);
      return response.writeHead(204).end();
    }
    if (object === undefined) return fail(response, 404, request.method === "HEAD" ? undefined : "NoSuchKey");
    if (request.method === "HEAD") return response.writeHead(200, { "Content-Length": object.length }).end();
    const bytes = range === null ? object : object.subarray(Number(range[1]), Number(range[2]) + 1);
    const sent =
      fault === "wrong"
        ? bytes.map((byte) => byte ^ 1)
        : fault === "longer"
          ? Buffer.concat([bytes, bytes])
          : bytes;
    response.writeHead(range === null ? 200 : 206, { "Content-Length": sent.length });
    if (fault !== "cut") return response.end(sent);
    response.write(sent.subarray(0, Math.floor(sent.length / 2)));
    return setImmediate(() => request.socket.destroy());
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as AddressInfo;
  return Object.assign(made, {
    environment: {
      S3_ENDPOINT: `http://127.0.0.1:${port}`,
      S3_REGION: "eu-north",
      S3_ACCESS_KEY_ID: "larkholm",
      S3_SECRET_ACCESS_KEY: "a secret",
    },
  });
}

async function readAll(request: IncomingMessage): Promise<Buffer> {
  const chunks: Buffer[] = [];
  for await (const chunk of request) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks);
}

function fail(response: ServerResponse, status: number, code: string | undefined): ServerResponse {
  return response.writeHead(status).end(code === undefined ? "" : `<Error><Code>${code}</Code></Error>`);
}

// Two objects a page, so that lists have several.
function list(
  response: ServerResponse,
  objects: Map<string, Buffer>,
  query: URLSearchParams,
): ServerResponse {
  const after = query.get("continuation-token") ?? "";
  const keys = [...objects.keys()]
    .filter((key) => key.startsWith(query.get("prefix") ?? "") && key > after)
    .sort();
  const page = keys.slice(0, 2);
  const rows = page.map(
    (key) =>
      `<Contents><Key>${key}</Key><Size>${objects.get(key)!.length}</Size><LastModified>2020-01-01T00:00:00Z</LastModified></Contents>`,
  );
  const isCut = keys.length > page.length;
  const more = isCut ? `<NextContinuationToken>${page.at(-1)}</NextContinuationToken>` : "";
  return response
    .writeHead(200)
    .end(
      `<?xml version="1.0"?><ListBucketResult><IsTruncated>${isCut}</IsTruncated>${more}${rows.join("")}</ListBucketResult>`,
    );
}
