/** The order of two texts by their UTF-16 code units: the same on every machine, whatever its language. */
export const compareText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);
