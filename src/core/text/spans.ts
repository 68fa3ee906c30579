/**
 * The text without what stands from an opening to a closing mark, both included, such as comments; what is not closed stays. One
 * pass over the text.
 */
export function removeSpans(text: string, open: string, close: string, by = ""): string {
  let [kept, from] = ["", 0];
  for (let start = text.indexOf(open); start >= 0; start = text.indexOf(open, from)) {
    const end = text.indexOf(close, start + open.length);
    if (end < 0) break;
    kept += text.slice(from, start) + by;
    from = end + close.length;
  }
  return kept + text.slice(from);
}
