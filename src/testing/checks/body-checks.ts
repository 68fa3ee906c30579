import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { shorten as shortenPath } from "../../config/config-file.js";
import { formatCount } from "../../core/text/size.js";
import { PICTURE_HEAD, readPicture } from "../../reading/contents/picture.js";
import { readJson } from "../../reading/json.js";
import type { Reply } from "../ask/ask.js";
import type { BodyExpectation } from "../format/schema-expectation.js";
import {
  isWithin,
  showBound,
  showPattern,
  toExpression,
  type WrittenPattern,
} from "../format/schema-texts.js";
import { describeBody, describeFirstDifference, sameBytes, shorten } from "./body.js";
import type { Check, Got } from "./check.js";
import { readContent, readText } from "./content.js";
import { readDigest } from "./digest.js";
import { checkJsonAt } from "./json-at.js";
import { findJsonDifference } from "./json-subset.js";
import { holdAgainst, TOOK_TOO_LONG } from "./pattern.js";

/** The checks of a body. `resolveFile` finds a file that is named in it. Codings are undone before anything is looked at. */
export function checkBody(body: BodyExpectation, resolveFile: (name: string) => string): Check[] {
  return [
    ...checkBytes(body, resolveFile),
    ...checkText(body),
    ...(body.json === undefined ? [] : [checkJson(body.json)]),
    ...(body.jsonAt === undefined ? [] : checkJsonAt(body.jsonAt)),
    ...(body.picture === undefined ? [] : [checkPicture(body.picture)]),
  ];
}

/** A check of the bytes, codings undone. */
function look(expected: string, of: (bytes: Uint8Array, reply: Reply) => Got | undefined): Check {
  return {
    about: "body",
    expected,
    look({ reply }) {
      const content = readContent(reply);
      return content.ok ? of(content.bytes, reply) : { text: content.problem };
    },
  };
}

/** A check of the text that the bytes are in their charset. */
function lookAtText(expected: string, of: (text: string, reply: Reply) => Got | undefined): Check {
  return look(expected, (_, reply) => of((readText(reply) as { text?: string }).text ?? "", reply));
}

function checkBytes(
  { empty, length, digest, file }: BodyExpectation,
  resolveFile: (name: string) => string,
): Check[] {
  const checks: Check[] = [];
  if (empty !== undefined)
    checks.push(
      look(empty ? "an empty body" : "a body that is not empty", (bytes, reply) =>
        (bytes.length === 0) === empty ? undefined : { text: describeBody(reply) },
      ),
    );
  if (length !== undefined)
    checks.push(
      look(`${showBound(length, formatCount)} bytes`, (bytes) =>
        isWithin(bytes.length, length)
          ? undefined
          : { text: `${formatCount(bytes.length)} bytes`, comparable: true },
      ),
    );
  if (digest !== undefined) checks.push(checkDigest(digest));
  if (file !== undefined)
    checks.push(look(`the bytes of ${file}`, (bytes) => compareWithFile(bytes, resolveFile(file))));
  return checks;
}

function checkDigest(digest: string): Check {
  const { algorithm, hex, written } = readDigest(digest)!;
  return look(digest, (bytes) => {
    const got = createHash(algorithm).update(bytes).digest(written);
    const wanted = Buffer.from(hex, "hex").toString(written);
    const prefix = algorithm === "sha256" ? "sha-256=" : "sha-512=";
    return got === wanted ? undefined : { text: prefix + (written === "hex" ? got : `:${got}:`) };
  });
}

function checkText({ equals, contains, lacks, matches, matchesNot, count }: BodyExpectation): Check[] {
  const checks: Check[] = [];
  if (equals !== undefined) {
    const encoded = new TextEncoder().encode(equals);
    checks.push(
      look(JSON.stringify(equals), (bytes, reply) => {
        if (sameBytes(bytes, encoded)) return undefined;
        const { text = "" } = readText(reply) as { text?: string };
        return text.length > 400
          ? { text: describeBody(reply) }
          : { text: JSON.stringify(text), comparable: true };
      }),
    );
  }
  for (const text of [contains ?? []].flat())
    checks.push(
      lookAtText(`a text with ${JSON.stringify(text)}`, (got, reply) =>
        got.includes(text) ? undefined : { text: describeBody(reply) },
      ),
    );
  for (const text of [lacks ?? []].flat())
    checks.push(
      lookAtText(`a text without ${JSON.stringify(text)}`, (got) => {
        const at = got.indexOf(text);
        return at < 0 ? undefined : { text: `it in ${JSON.stringify(showAround(got, at, text.length))}` };
      }),
    );
  if (matches !== undefined) checks.push(checkPattern(matches, true));
  if (matchesNot !== undefined) checks.push(checkPattern(matchesNot, false));
  for (const [text, wanted] of Object.entries(count ?? {}))
    checks.push(
      lookAtText(`${JSON.stringify(text)} ${showBound(wanted)} times`, (got) => {
        const found = got.split(text).length - 1;
        return isWithin(found, wanted) ? undefined : { text: `${formatCount(found)} times` };
      }),
    );
  return checks;
}

function checkPattern(written: WrittenPattern, isWanted: boolean): Check {
  // Here a dot means line breaks, too.
  const pattern = toExpression(written, "s");
  return lookAtText(`${isWanted ? "a match" : "no match"} of ${showPattern(written)}`, (text, reply) => {
    const outcome = holdAgainst(pattern, text);
    if (outcome === "takes too long") return { text: TOOK_TOO_LONG };
    if ((outcome === "matches") === isWanted) return undefined;
    if (isWanted) return { text: describeBody(reply) };
    return { text: `one: ${JSON.stringify(shorten(pattern.exec(text)?.[0] ?? "", 80))}` };
  });
}

function checkPicture({ width, height }: NonNullable<BodyExpectation["picture"]>): Check {
  const expected = [width && `${showBound(width)} wide`, height && `${showBound(height)} high`];
  return look(`a picture ${expected.filter(Boolean).join(", ")} (pixels)`, (bytes, reply) => {
    const picture = readPicture(bytes.subarray(0, PICTURE_HEAD));
    if (picture === undefined) return { text: `no picture whose size can be read: ${describeBody(reply)}` };
    const holds = isWithin(picture.width, width ?? {}) && isWithin(picture.height, height ?? {});
    return holds ? undefined : { text: `${picture.width} wide, ${picture.height} high` };
  });
}

function checkJson(expected: unknown): Check {
  return {
    about: "body",
    expected: `JSON with ${shorten(JSON.stringify(expected), 100)}`,
    look({ reply }) {
      const content = readText(reply);
      if (!content.ok) return { text: content.problem };
      const read = readJson(content.text ?? "");
      if (!read.ok) return { text: `a body that ${read.problem}: ${describeBody(reply)}` };
      const found = findJsonDifference(expected, read.value);
      if (found === undefined) return undefined;
      const show = (one: unknown): string =>
        one === undefined ? "nothing" : shorten(JSON.stringify(one), 60);
      return { text: `at ${found.place} ${show(found.got)} instead of ${show(found.expected)}` };
    },
  };
}

function compareWithFile(bytes: Uint8Array, path: string): Got | undefined {
  let wanted: Uint8Array;
  try {
    wanted = readFileSync(path);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const why = code === "ENOENT" ? "there is no such file" : `the file cannot be read (${code})`;
    return {
      text: `a body that cannot be compared: ${why} at ${shortenPath(path)}; body.file is a path from this file's folder`,
    };
  }
  if (sameBytes(bytes, wanted)) return undefined;
  return { text: `${formatCount(bytes.length)} bytes, ${describeFirstDifference(wanted, bytes)}` };
}

function showAround(text: string, at: number, length: number): string {
  const [from, to] = [Math.max(0, at - 24), Math.min(text.length, at + length + 24)];
  const piece = text.slice(from, to).replace(/\s+/g, " ");
  return `${from > 0 ? "…" : ""}${piece}${to < text.length ? "…" : ""}`;
}
