import type { Arbitrary } from "fast-check";

/** A change, and how often is asked after it. */
export const step: Arbitrary<{ how: string; asks: number; a: number; b: number }>;

export interface Changes {
  moveAndPutBack(a: number, b: number): Promise<void>;
  change(how: string, a: number, b: number): string;
  ask(a: number, b: number): Promise<string>;
  kept(): number;
  close(): Promise<void>;
}

export function openChanges(product: object): Promise<Changes>;
