import { findRule } from "../../core/rules/file-rules.js";
import { isFingerprinted } from "../../core/rules/names.js";
import type { LinkingDocument, Preloads } from "../../core/rules/preloads.js";
import { readPage } from "../../reading/pages/page.js";
import { findPreloads } from "../../reading/pages/preloads.js";
import { inSlices } from "../../reading/slices.js";
import { innermost } from "../compiler.js";

type PreloadsValue = boolean;

export const preloadsCompiler = innermost({
  default: false,
  compile: (value: PreloadsValue): Preloads | undefined =>
    value
      ? {
          readUpTo: HEAD_WITHIN,
          // Addresses are ASCII in every charset that begins like it.
          async read(bytes) {
            return findPreloads(await inSlices(readPage(new TextDecoder("latin1").decode(bytes), false)));
          },
          findFresh,
        }
      : undefined,
});

/** A head is near the beginning of a page; more of it is not read, in bytes. */
const HEAD_WITHIN = 64 * 1024;

// A browser keeps what it fetched early in its cache: what is not fresh there is asked for twice.
async function findFresh(
  links: readonly string[],
  { address, path, mount, rules }: LinkingDocument,
): Promise<readonly string[]> {
  const fresh: string[] = [];
  const at = address.slice(0, address.length - path.length);
  for (const link of links) {
    const target = targetOf(link, at, path);
    if (target === undefined) continue;
    const fingerprinted = await isFingerprinted(mount.names, mount.source, target);
    if ((findRule(rules.caching, target, fingerprinted)?.lifetimeSeconds ?? 0) > 0) fresh.push(link);
  }
  return fresh;
}

function targetOf(link: string, at: string, path: string): string | undefined {
  const [, written] = /^<([^>]*)>/.exec(link)!;
  const own = written!.startsWith(`/${at}`) ? written!.slice(at.length + 1) : undefined;
  const below = /^(?:\.\/)?(?![/.])(?!https?:)(.*)$/i.exec(written!)?.[1];
  const target = own ?? (below === undefined ? undefined : path.slice(0, path.lastIndexOf("/") + 1) + below);
  return target?.replace(/\?.*/, "");
}
