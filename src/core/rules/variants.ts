/** Which files beside a file say the same, in another format or another language. */
export interface VariantRules {
  /** Extensions without a dot, the most wanted first. */
  readonly formats: readonly string[];
  /** Language tags in lower case; the first is that of files without one in their names. Empty, or two at least. */
  readonly languages: readonly string[];
}

/** What a file is beside its variants, where there are some. */
export interface Variant {
  /** The field that chooses among them. */
  readonly field: "Accept" | "Accept-Language";
  /** The extension or the language. */
  readonly of: string;
  /** True for one that is not the original: it names its own address, and has tags of its own. */
  readonly isOther: boolean;
}

/** `view.jpg` in another format: `view.avif`. */
export function nameInFormat(path: string, format: string): string {
  return `${path.slice(0, path.lastIndexOf("."))}.${format}`;
}

/** `index.html` in another language: `index.nb.html`. */
export function nameInLanguage(path: string, language: string): string {
  const dot = path.lastIndexOf(".");
  return `${path.slice(0, dot)}.${language}${path.slice(dot)}`;
}

/** The language that a file has in its name, of those that there are; undefined for an original. */
export function languageInName(path: string, { languages }: VariantRules): string | undefined {
  const language = /\.([^./]+)\.[^./]+$/.exec(path)?.[1]?.toLowerCase();
  return language !== undefined && languages.includes(language) ? language : undefined;
}
