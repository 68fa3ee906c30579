// Takes a file that somebody sends with PUT, into a folder that is served.
import { createWriteStream } from "node:fs";
import { link, rm } from "node:fs/promises";
import { join } from "node:path";
import { pipeline } from "node:stream/promises";

const AT_MOST = 5_000_000;
/** Letters, digits, blanks and a few marks; no dot at the beginning: such names are withheld. */
const NAME = /^[\p{L}\p{N}][\p{L}\p{N} ._-]{0,99}$/u;
let count = 0;

export async function takeUpload(request, response, folder) {
  const end = (status, text) =>
    response.writeHead(status, { "Content-Type": "text/plain; charset=utf-8" }).end(`${text}\n`);
  // Another site's page cannot send files in a visitor's name.
  if (!["same-origin", "none", undefined].includes(request.headers["sec-fetch-site"]))
    return end(403, "Files are taken from this site's own pages.");
  const name = readName(request.url);
  if (name === undefined) return end(400, "This name cannot be used; write letters, digits, and . _ -");
  // While it is written, its name has a dot in front: nobody gets half a file.
  const part = join(folder, `.${++count}-${name}`);
  try {
    await pipeline(request, limit, createWriteStream(part, { flags: "wx" }));
    // Fails if the name is taken: nobody replaces what somebody else sent.
    await link(part, join(folder, name));
    end(201, `${name} is there.`);
  } catch (error) {
    if (error.code === "EEXIST") end(409, "There is such a file already; choose another name.");
    else if (error === TOO_LONG) end(413, "The file is longer than 5 MB.");
    else if (!response.destroyed) end(500, "The file could not be written.");
  } finally {
    await rm(part, { force: true });
  }
}

const TOO_LONG = new Error("too long");

async function* limit(pieces) {
  let length = 0;
  for await (const piece of pieces) {
    length += piece.length;
    if (length > AT_MOST) throw TOO_LONG;
    yield piece;
  }
}

function readName(url) {
  try {
    const name = decodeURIComponent(url.slice("/uploads/".length)).normalize("NFC");
    return NAME.test(name) ? name : undefined;
  } catch {
    return undefined;
  }
}
