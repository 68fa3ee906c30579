/** The part at the end of a name that may be a fingerprint, with what stands before it. */
export interface Token {
  /** What separates it from the rest of the name; `""` where it is all of the name but its extensions. */
  readonly separator: "" | "-" | "." | "_";
  readonly text: string;
}

/** A shorter part says too little, a longer one is no digest in any alphabet that is used; in characters. */
const SHORTEST = 8;
const LONGEST = 64;
/** The most extensions that are read of a name, as in `index.4f9a1c2e.module.css.map`. */
const EXTENSIONS = 3;

/** A name with more dashes is a sentence. */
const TOKENS_AT_MOST = 12;

const EXTENSION = /^[A-Za-z][A-Za-z0-9]{0,9}$/;
/** Extensions of other letters are part of no chain: `chunk`, `min`, `d`, `LICENSE`. */
const INNER = /^(?:[a-z]{1,8}|LICENSE)$/;
// RFC 9562 §4: an identifier, and no digest. What `git describe` says is a version.
const IDENTIFIER =
  /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}|-\d+-g[0-9a-f]{7,40}(?![0-9a-z])/i;

/** Every part at the end of a name, before its extensions, that may be a fingerprint: the shortest first. */
export function readTokens(name: string): Token[] {
  const parts = name.split(".");
  const tokens: Token[] = [];
  for (let count = 1; count <= EXTENSIONS && count < parts.length; count++) {
    const extension = parts[parts.length - count]!;
    if (!(count === 1 ? EXTENSION : INNER).test(extension)) break;
    readEnd(parts[parts.length - count - 1]!, parts.length - count - 1 === 0, tokens);
  }
  return tokens;
}

// `part` is what stands between two dots, or before the first. Before its ending, it may have any characters.
function readEnd(part: string, isFirst: boolean, tokens: Token[]): void {
  if (part.length < SHORTEST || IDENTIFIER.test(part.slice(-LONGEST))) return;
  const first = Math.max(0, part.length - LONGEST - 1);
  for (let at = part.length - 1; at >= first; at--) {
    const sign = part[at]!;
    if (!/[\w-]/.test(sign)) return;
    const isSeparator = sign === "-" || sign === "_";
    if (isSeparator && part.length - at > SHORTEST && tokens.length < TOKENS_AT_MOST)
      tokens.push({ separator: sign, text: part.slice(at + 1) });
  }
  if (part.length <= LONGEST) tokens.push({ separator: isFirst ? "" : ".", text: part });
}
