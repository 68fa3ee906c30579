/** Does some work for each entry, at most `width` at a time; the outcomes are in the order of the entries. */
export async function doAtATime<Entry, Outcome>(
  entries: readonly Entry[],
  width: number,
  work: (entry: Entry) => Promise<Outcome>,
): Promise<Outcome[]> {
  const outcomes = new Array<Outcome>(entries.length);
  let next = 0;
  const go = async (): Promise<void> => {
    while (next < entries.length) {
      const index = next++;
      outcomes[index] = await work(entries[index]!);
    }
  };
  await Promise.all(Array.from({ length: Math.min(width, entries.length) }, go));
  return outcomes;
}
