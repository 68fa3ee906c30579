import { constants, gunzipSync } from "node:zlib";
import { EXPOSURES, type Exposure, findExposure } from "../../config/exposures.js";
import { isGzip } from "../../core/rules/codings.js";
import { listArchiveNames } from "../../reading/contents/archive-names.js";
import {
  findSecret,
  findSecretBytes,
  findSecretInJson,
  isServerPage,
  isServerScript,
  type Telling,
} from "../../reading/contents/secrets.js";
import { readJson } from "../../reading/json.js";
import type { ReadFile } from "./read-file.js";

/** Pages and articles explain what a key looks like. */
const EXPLAINS = /^(?:text\/html|application\/xhtml\+xml|text\/markdown|application\/pdf|text\/css)$/;
/** What lies in an archive of a program, and in none of documents. */
const PROJECT =
  /(?:^|\/)(?:\.git\/|\.svn\/|\.env(?:\.|$)|node_modules\/|(?:package|composer)\.json$|id_(?:rsa|ed25519)$|\.htpasswd$|web-inf\/|manage\.py$|gemfile$|pom\.xml$|cargo\.toml$|go\.mod$|server\.[cm]?(?:js|ts|py)$)|\.(?:php|sql|sqlite3?)$/i;

/** What a file is that visitors should not have; kept until it is known what pages link to. */
export type Suspicion = Pick<Exposure, "code" | "reason" | "unless">;

const byCode = (code: string): Exposure => EXPOSURES.find((one) => one.code === code)!;
const PROGRAM: Suspicion = {
  code: "program",
  reason: "Anyone can search it for secrets and weaknesses.",
  unless: "offered",
};

/** What a file seems to be by its name and its content; undefined for what visitors may have. */
export function suspect(read: ReadFile): Suspicion | undefined {
  const { file } = read;
  const byContent = suspectContent(read);
  if (byContent !== undefined) return byContent;
  const exposure = findExposure(file.path);
  if (exposure === undefined || exposure.byContent) return undefined;
  const isBinary = read.start.subarray(0, 512).some((byte) => byte < 9);
  // Films share their extension with a language, and an include may be a part of any language.
  if (exposure.code === "source" && isBinary) return undefined;
  if (/\.inc$/i.test(file.path) && !/<[?%]|\bfunction\b|\$\w+\s*=/.test(toLatin1(read.start)))
    return undefined;
  return exposure;
}

function suspectContent(read: ReadFile): Suspicion | undefined {
  const { file, start, mediaType = "" } = read;
  if (/^(?:image|audio|video|font)\//.test(mediaType) && mediaType !== "image/svg+xml") return undefined;
  const told = findSecretBytes(start);
  if (told !== undefined) return describe(told);
  const text = read.text ?? toLatin1(start);
  if (/^text\/(?:html|plain)$|^$/.test(mediaType) && isServerPage(text, mediaType === "text/html"))
    return byCode("server-source");
  if (/(?:zip|tar)$/.test(mediaType) || /\.(?:tgz|war|jar)$/i.test(file.path)) {
    const inside = listArchiveNames(unpack(start), read.tail).find((name) => PROJECT.test(name));
    if (inside !== undefined) {
      const { code, unless } = byCode("site-archive");
      return {
        code,
        reason: `It holds ${inside}: it seems to be a whole project, with all that it was made from.`,
        ...(unless !== undefined && { unless }),
      };
    }
  }
  if (EXPLAINS.test(mediaType)) return undefined;
  // What a page loads runs there, whatever else it could do.
  if (/javascript$/.test(mediaType) && isServerScript(text))
    return {
      ...describe({ code: "server-source", what: "a program that answers requests" }),
      unless: "offered",
    };
  const secret = findSecretText(read, text);
  return secret === undefined ? undefined : describe(secret);
}

/** The beginning of what is packed in gzip; other bytes as they are. */
function unpack(start: Uint8Array): Uint8Array {
  if (!isGzip(start)) return start;
  try {
    // A part of a stream is no error.
    return gunzipSync(start, { finishFlush: constants.Z_SYNC_FLUSH, maxOutputLength: UNPACKED_AT_MOST });
  } catch {
    return start.subarray(0, 0);
  }
}

/** How much of a compressed archive is unpacked, in bytes. */
const UNPACKED_AT_MOST = 4 * 1024 * 1024;

function findSecretText({ file, mediaType = "" }: ReadFile, text: string): Telling | undefined {
  const isPlain =
    /^$|^text\/|octet-stream$|yaml$|toml$|sql$/.test(mediaType) && !/javascript$|xml$/.test(mediaType);
  const found = findSecret(text, isPlain || findExposure(file.path) !== undefined);
  if (found !== undefined || !/json$/.test(mediaType) || !/"(?:kty|entries)"/.test(text)) return found;
  const read = readJson(text);
  return read.ok ? findSecretInJson(read.value) : undefined;
}

function describe({ code, what }: Telling): Suspicion {
  const { reason, unless } = code === PROGRAM.code ? PROGRAM : byCode(code);
  return {
    code,
    reason: `It is ${what}: ${reason[0]!.toLowerCase()}${reason.slice(1)}`,
    ...(unless !== undefined && { unless }),
  };
}

function toLatin1(bytes: Uint8Array): string {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString("latin1");
}
