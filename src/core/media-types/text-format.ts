/** A line of a types file that could not be read. */
export interface TypesFileProblem {
  /** 1-based. */
  readonly line: number;
  readonly found: string;
}

const MEDIA_TYPE = /^[A-Za-z0-9][A-Za-z0-9!#$&\-^_.+]*\/[A-Za-z0-9][A-Za-z0-9!#$&\-^_.+]*$/;

/** True for `type/subtype` in the characters of RFC 6838 §4.2. */
export function isMediaType(text: string): boolean {
  return MEDIA_TYPE.test(text);
}

/**
 * Reads the text format that systems keep their types in: a line holds a media type and the extensions that go with it,
 * parted by blanks; `#` begins a comment. Extensions come without their dot. The last line that names an extension wins.
 */
export function parseTypesText(text: string): { types: Map<string, string>; problems: TypesFileProblem[] } {
  const types = new Map<string, string>();
  const problems: TypesFileProblem[] = [];
  for (const [index, line] of text.split(/\r?\n/).entries()) {
    const [type, ...extensions] = line.replace(/#.*/, "").split(/\s+/).filter(Boolean);
    if (type === undefined) continue;
    if (!isMediaType(type)) problems.push({ line: index + 1, found: type });
    else for (const extension of extensions) types.set(extension.toLowerCase(), type.toLowerCase());
  }
  return { types, problems };
}
