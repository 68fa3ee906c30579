import { createHash } from "node:crypto";
import { formatSha256, parseSha256 } from "../../core/fields/digest-fields.js";
import { readJson } from "../../reading/json.js";
import type { Reply } from "../ask/ask.js";
import type { Case } from "../case.js";
import type { FollowUp } from "../checks/follow-ups.js";
import { foldersOf, type Sample } from "../discover/sample.js";
import { demand, get, makeCase, withFollowUps } from "./pack.js";

/** Asks for digests of what is sent (RFC 9530 §4). */
export const WANTS = { "Want-Repr-Digest": "sha-256=5", "Want-Content-Digest": "sha-256=5" };

const FOLDERS_AT_MOST = 4;
const FILES_AT_MOST = 20;

const sha256 = (bytes: Uint8Array): string => createHash("sha256").update(bytes).digest("base64url");

/** What its own whole answer says bytes, and is not so (RFC 9530 §2, §3). */
export function findOtherDigest({ status, headers, body, isCut }: Reply): string | undefined {
  if (status !== 200 || isCut) return undefined;
  for (const name of ["repr-digest", "content-digest"]) {
    const told = headers[name] === undefined ? undefined : parseSha256(headers[name]);
    if (told !== undefined && told !== sha256(body)) return `other bytes than those of ${name}`;
  }
  return undefined;
}

/** Folders whose list has digests: each file is compared with its own. */
export function lookAtLists(sample: Sample): Case[] {
  return foldersOf(sample)
    .slice(0, FOLDERS_AT_MOST)
    .map((folder) =>
      withFollowUps(
        makeCase(
          `${folder}?digests lists the digests of its files`,
          get(`${folder}?digests`, { Accept: "application/json" }),
          [],
          "a download is checked against this list",
        ),
        [eachFile],
      ),
    );
}

const eachFile: FollowUp = {
  name: "each file of the list",
  plan({ reply, question, address }) {
    const base = address + question.path;
    return readEntries(reply)
      .filter(({ href }) => URL.canParse(href, base) && new URL(href, base).href.startsWith(`${address}/`))
      .slice(0, FILES_AT_MOST)
      .map(({ href, digest }) => {
        const path = new URL(href, base).href.slice(address.length);
        const same = demand("digest", digest, (seen) => {
          const found = formatSha256(sha256(seen.reply.body));
          return seen.reply.status === 200 && found === digest ? undefined : `${seen.reply.status}, ${found}`;
        });
        return { name: `asked for ${path}`, question: get(path), checks: [same] };
      });
  },
};

function readEntries({ status, body }: Reply): { href: string; digest: string }[] {
  if (status !== 200) return [];
  const read = readJson(new TextDecoder().decode(body));
  const entries = read.ok ? (read.value as { entries?: unknown } | null)?.entries : undefined;
  return (Array.isArray(entries) ? entries : []).filter(
    (one): one is { href: string; digest: string } =>
      typeof one?.href === "string" &&
      typeof one.digest === "string" &&
      parseSha256(one.digest) !== undefined,
  );
}
