export declare const ALPHABETS: Readonly<Record<string, string>>;
export declare const LENGTHS: readonly number[];
export declare const SEPARATORS: readonly string[];
export declare function drawFrom(seed: number): () => number;
export declare function makeFolder(
  alphabet: string,
  length: number,
  separator: string,
  count: number,
  draw: () => number,
): string[];
