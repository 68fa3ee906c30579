// Pages that are rendered when somebody asks, as a source of files: so they get methods, validators, compression and policies as files do.
import { createHash } from "node:crypto";

/** `render` gives a page for a path, or undefined. It is called for each request: nothing of it is kept. */
export function renderedPages(render, template) {
  return {
    name: "the application's pages",
    open(path) {
      if (!path.endsWith(".html")) return isFolder(path) ? FOLDER : MISSING;
      const page = render(`/${path.replace(/(?:^|(?<=\/))index\.html$|\.html$/, "")}`);
      if (page === undefined) return MISSING;
      const { title, content } = page;
      return {
        kind: "file",
        file: makeFile(template.replace("<!--title-->", () => title).replace("<!--page-->", () => content)),
      };
    },
    async diagnose() {},
  };
}

const MISSING = { kind: "missing", because: "no-such-file" };
const isFolder = (path) => path === "";
const FOLDER = {
  kind: "directory",
  directory: {
    version: undefined,
    list: async () => [],
    stat: async () => undefined,
    isInPlace: async () => true,
    close() {},
  },
};

// With a digest, no time counts: the entity tag is made from the content.
function makeFile(html) {
  const bytes = Buffer.from(html);
  const digest = createHash("sha256").update(bytes).digest("base64url");
  return {
    metadata: { sizeBytes: bytes.length, modifiedNs: 0n, digest },
    bytes,
    read: async (offset, length) => bytes.subarray(offset, offset + length),
    digest: async () => digest,
    isUnchanged: () => true,
    close() {},
  };
}
