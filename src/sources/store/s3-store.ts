import { AwsV4Signer } from "aws4fetch";
import { XMLParser } from "fast-xml-parser";
import { type ListedObject, type ObjectStore, StoreError, type WrittenBody } from "./object-store.js";
import { retrying } from "./retry.js";
import { TIMES } from "./times.js";

/** What an object store over the S3 protocol needs to be reached. */
export interface S3Access {
  /** Its address, such as `https://objects.larkholm.example`: buckets are the first segment of the path. */
  readonly endpoint: string;
  readonly region: string;
  readonly accessKeyId: string;
  readonly secretAccessKey: string;
  readonly sessionToken?: string | undefined;
}

/** How long one attempt may take until the head of the answer is there, in milliseconds. */
const HEAD_MS = 15_000;
/** A body that comes or goes more slowly than this is given up, in bytes a second. */
const SLOWEST = 50_000;
/** The longest object that is written in one request, in bytes: the protocol has this bound. */
const LONGEST = 5 * 1024 ** 3;
/** The SHA-256 of nothing. */
const EMPTY = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";
/** The longest answer that is read where it says how it failed, or is a list. */
const TEXT_BYTES = 8 * 1024 * 1024;

/** A release store in a bucket, below a prefix. */
export function openS3Store(bucket: string, prefix: string, access: S3Access): ObjectStore {
  const name = `s3://${[bucket, prefix].filter(Boolean).join("/")}`;
  const base = `${access.endpoint.replace(/\/+$/, "")}/${encodeURIComponent(bucket)}`;
  const full = (key: string): string => (prefix === "" ? key : `${prefix}/${key}`);
  const urlOf = (key: string): string => `${base}/${full(key).split("/").map(encodeURIComponent).join("/")}`;
  const call = (url: string, sending: Omit<Sending, "url">, leftMs: number): Promise<Response> =>
    send(name, access, { url, ...sending }, leftMs);
  return {
    name,
    settlesMs: TIMES.settles,
    read: (key, { atMost, part, deadlineMs }) =>
      retrying(async (leftMs) => {
        const headers = part && { Range: `bytes=${part.offset}-${part.offset + part.length - 1}` };
        const response = await call(urlOf(key), { method: "GET", ...(headers && { headers }) }, leftMs);
        if (response.status === 404) return demandBucket(name, key, response);
        await demand(name, key, response, part === undefined ? [200] : [206, 200]);
        const bytes = await readBody(
          name,
          key,
          response,
          part === undefined ? atMost : Math.max(atMost, part.length),
        );
        // RFC 9110 §14.2: a server may ignore Range.
        return part !== undefined && response.status === 200
          ? bytes.subarray(part.offset, part.offset + part.length)
          : bytes;
      }, deadlineMs),
    sizeOf: (key) =>
      retrying(async (leftMs) => {
        const response = await call(urlOf(key), { method: "HEAD" }, leftMs);
        if (response.status === 404) return ignore(response);
        await demand(name, key, response, [200]);
        await ignore(response);
        return Number(response.headers.get("Content-Length") ?? Number.NaN);
      }, TIMES.patient),
    write: async (key, body) => {
      if (body.sizeBytes > LONGEST)
        throw new StoreError(
          `${name}: a file of ${body.sizeBytes} bytes is longer than an object may be (5 GiB); leave it out.`,
          {
            isTemporary: false,
          },
        );
      const slowestMs = TIMES.patient + (body.sizeBytes / SLOWEST) * 1000;
      await retrying(async (leftMs) => {
        const response = await call(urlOf(key), { method: "PUT", body }, leftMs);
        await demand(name, key, response, [200, 201, 204]);
        await ignore(response);
      }, slowestMs);
    },
    remove: async (key) => {
      await retrying(async (leftMs) => {
        const response = await call(urlOf(key), { method: "DELETE" }, leftMs);
        if (response.status !== 404) await demand(name, key, response, [200, 202, 204]);
        await ignore(response);
      }, TIMES.patient);
    },
    async *list(start) {
      let token: string | undefined;
      do {
        const query = new URLSearchParams({ "list-type": "2", prefix: full(start) });
        if (token !== undefined) query.set("continuation-token", token);
        const page = await retrying(async (leftMs) => {
          const response = await call(`${base}?${query}`, { method: "GET" }, leftMs);
          await demand(name, "the list of objects", response, [200]);
          return readList(name, await readBody(name, "the list of objects", response, TEXT_BYTES));
        }, TIMES.patient);
        const cut = prefix === "" ? 0 : prefix.length + 1;
        for (const one of page.objects) yield { ...one, key: one.key.slice(cut) };
        token = page.next;
      } while (token !== undefined);
    },
  };
}

interface Sending {
  readonly url: string;
  readonly method: "GET" | "HEAD" | "PUT" | "DELETE";
  readonly headers?: Readonly<Record<string, string>>;
  readonly body?: WrittenBody;
}

/** Bodies up to this length are signed and sent from memory, in bytes. */
const IN_MEMORY = 1024 * 1024;

async function send(
  name: string,
  { endpoint: _endpoint, ...keys }: S3Access,
  { url, method, headers, body }: Sending,
  leftMs: number,
): Promise<Response> {
  const signer = new AwsV4Signer({
    ...keys,
    service: "s3",
    url,
    method,
    headers: { ...headers, "X-Amz-Content-Sha256": body?.digest ?? EMPTY },
  });
  try {
    const signed = await signer.sign();
    // Fetch says so itself with a range: a second one would not fit the signature.
    if (headers?.Range === undefined) signed.headers.set("Accept-Encoding", "identity");
    // What is sent is checked against its digest by the store: the signature has it.
    if (body !== undefined) signed.headers.set("Content-Length", String(body.sizeBytes));
    const bytes =
      body === undefined ? undefined : body.sizeBytes <= IN_MEMORY ? await gather(body) : body.open();
    const limitMs = Math.min(leftMs, HEAD_MS + ((body?.sizeBytes ?? 0) / SLOWEST) * 1000);
    return await fetch(signed.url, {
      method,
      headers: signed.headers,
      redirect: "error",
      signal: AbortSignal.timeout(Math.ceil(limitMs)),
      ...(bytes !== undefined && { body: bytes as never, duplex: "half" }),
    } as RequestInit);
  } catch (error) {
    throw new StoreError(`${name} does not answer (${describe(error)}).`, { cause: error });
  }
}

async function gather({ open, sizeBytes }: WrittenBody): Promise<Uint8Array> {
  const all = Buffer.allocUnsafe(sizeBytes);
  let done = 0;
  for await (const chunk of open()) {
    all.set(chunk, done);
    done += chunk.length;
  }
  return all;
}

function describe(error: unknown): string {
  const { name, message, cause } = error as Error & { cause?: { code?: string; message?: string } };
  return name === "TimeoutError" ? "it takes too long" : (cause?.code ?? cause?.message ?? message);
}

async function ignore(response: Response): Promise<undefined> {
  await response.body?.cancel().catch(() => {});
  return undefined;
}

// A bucket that is missing is not a missing object.
async function demandBucket(name: string, key: string, response: Response): Promise<undefined> {
  const text = await readBody(name, key, response, TEXT_BYTES).catch(() => new Uint8Array(0));
  if (Buffer.from(text).includes("<Code>NoSuchBucket</Code>")) throw noBucket(name);
  return undefined;
}

const noBucket = (name: string): StoreError =>
  new StoreError(`${name}: there is no such bucket; create it, or name another one.`, { isTemporary: false });

/** What a status means, and whether it may be over in a moment. */
async function demand(
  name: string,
  key: string,
  response: Response,
  wanted: readonly number[],
): Promise<void> {
  const { status } = response;
  if (wanted.includes(status)) return;
  const text = Buffer.from(
    await readBody(name, key, response, TEXT_BYTES).catch(() => new Uint8Array(0)),
  ).toString();
  const code = /<Code>(\w{1,60})<\/Code>/.exec(text)?.[1];
  const said = code === undefined ? `${status}` : `${status} ${code}`;
  if (status === 403 || status === 401)
    throw new StoreError(
      `${name}: the store refuses the key (${said}); check S3_ACCESS_KEY_ID and S3_SECRET_ACCESS_KEY, and what this key may do.`,
      { isTemporary: false },
    );
  if (status === 404) throw noBucket(name);
  if (status >= 300 && status < 400)
    throw new StoreError(`${name}: the store redirects (${said}); check S3_ENDPOINT and S3_REGION.`, {
      isTemporary: false,
    });
  const isTemporary =
    status >= 500 || status === 408 || status === 425 || status === 429 || code === "BadDigest";
  throw new StoreError(`${name}: the store answers ${key} with ${said}.`, { isTemporary });
}

// A body that is cut, too long or too slow is a failure.
async function readBody(name: string, key: string, response: Response, atMost: number): Promise<Uint8Array> {
  const said = response.headers.get("Content-Length");
  const chunks: Uint8Array[] = [];
  let length = 0;
  try {
    for await (const chunk of response.body ?? []) {
      length += chunk.length;
      if (length > atMost) break;
      chunks.push(chunk);
    }
  } catch (error) {
    throw new StoreError(`${name}: the answer for ${key} was cut off (${describe(error)}).`, {
      cause: error,
    });
  }
  if (length > atMost) throw new StoreError(`${name}: the answer for ${key} is longer than ${atMost} bytes.`);
  if (said !== null && Number(said) !== length)
    throw new StoreError(`${name}: the answer for ${key} was cut off after ${length} of ${said} bytes.`);
  return chunks.length === 1 ? chunks[0]! : Buffer.concat(chunks);
}

const parser = new XMLParser({ parseTagValue: false, isArray: (tag) => tag === "Contents" });

interface ListPage {
  readonly objects: readonly ListedObject[];
  readonly next: string | undefined;
}

function readList(name: string, bytes: Uint8Array): ListPage {
  try {
    const { ListBucketResult: list } = parser.parse(Buffer.from(bytes).toString("utf8"));
    const objects = ((list?.Contents ?? []) as Record<string, string>[]).map(
      ({ Key, Size, LastModified }) => ({
        key: String(Key),
        sizeBytes: Number(Size),
        changedMs: Date.parse(String(LastModified)),
      }),
    );
    return { objects, next: list?.IsTruncated === "true" ? String(list.NextContinuationToken) : undefined };
  } catch (error) {
    throw new StoreError(`${name}: the list of objects cannot be read.`, { cause: error });
  }
}
